"""The verdict: one sentence that could be read aloud, and the reasons with their numbers."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, time, timedelta

from jarbloom.core.advice.said import Verdict
from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.capacity import LIKELY
from jarbloom.core.bloom.value import TestValue, worthwhile
from jarbloom.core.journal.book import newcomers
from jarbloom.core.journal.clean import CLEAN_DAYS
from jarbloom.core.journal.log import latest
from jarbloom.core.upset.response import RETEST
from jarbloom.units import NBSP, figure, load_text, mg_text, percent

STALE_DAYS = 4
STALE_DAYS_SETTLED = 10  # a stocked tank without an upset or a plan is tested weekly


def verdict(s: Situation) -> Verdict:
    """What the tank asks for, and first among its reasons whatever in the log was not heard."""
    found, unheard = _verdict(s), s.entries.unheard
    return replace(found, reasons=(unheard, *found.reasons)) if unheard else found


def _verdict(s: Situation) -> Verdict:
    """The first of these that holds decides; safety stands before everything else."""
    if not s.tank.filled:
        return _dry(s)
    if s.acting:
        return _act(s)
    if s.forecast.last_reading is None:
        return _empty(s)
    if s.episode is not None and s.episode.open:
        return _recovering(s)
    if _stale(s):
        return _too_old(s)
    surprise = next((x for x in s.forecast.surprises if s.now - x.at < timedelta(days=1.5)), None)
    if surprise is not None:
        return _repeat(s)
    if s.next_batch is not None:
        return _batch(s)
    return _settled(s) if s.living else _cycling(s)


def _stale(s: Situation) -> bool:
    limit = STALE_DAYS_SETTLED if s.living and s.next_batch is None else STALE_DAYS
    last = s.forecast.last_reading
    return last is not None and s.now - last > timedelta(days=limit)


PUT_OFF = timedelta(days=2)  # the most that a test waits beyond the school's rhythm because it could tell nothing yet


def telling_test(s: Situation) -> TestValue | None:
    """The ammonia or nitrite test that would narrow the date most, while the tank cycles without animals."""
    return None if s.living else worthwhile([t for t in s.forecast.next_tests if t.quantity != "nitrate"])


def day_words(at: datetime, now: datetime) -> str:
    """'today', 'tomorrow', a weekday within the week, else a date."""
    days = (at.date() - now.date()).days
    if days <= 0:
        return "today"
    if days == 1:
        return "tomorrow"
    return f"on {at:%A}" if days < 7 else f"on {at:%-d %b}"


def next_test(s: Situation) -> datetime:
    """When the next test is due: by the school's rhythm, daily near the end, in an upset and after arrivals.

    While a tank cycles without animals, the day on which a test narrows the date most may bring it forward, or put
    it off by a day or two: a test that can tell nothing yet is a test for nothing.
    """
    if s.levels.changed_at is not None and s.episode is not None and s.episode.open:
        return max(s.levels.changed_at + RETEST, s.now)
    last = s.forecast.last_reading or s.now
    rhythm = s.school.rhythm_days
    near = s.forecast.readiness.p25 is not None and (s.forecast.readiness.p25 - s.now.date()).days <= 5
    arrivals = [e.at for e in newcomers(s.entries)]
    fresh = bool(arrivals) and s.now - arrivals[-1] < timedelta(days=7)
    if (s.episode and s.episode.open) or fresh:
        rhythm = 1.0
    elif s.living and not s.school.fish_in:
        rhythm = 7.0
    elif near:
        rhythm = s.school.rhythm_near_end_days
    due = last + timedelta(days=rhythm)
    best = telling_test(s)
    if best is not None and not near:
        due += min(timedelta(days=(best.day - due.date()).days), PUT_OFF)
    batch = s.next_batch
    if s.living and batch is not None:  # the gate asks for fresh tests on the day of a batch
        due = min(due, datetime.combine(batch.planned, time(9), s.now.tzinfo))
        due = max(due, last + timedelta(days=1))
    return max(due, s.now)


def test_advice(s: Situation) -> str:
    return f"Test again {day_words(next_test(s), s.now)}."


def _capacity_reason(s: Situation) -> str:
    f = s.forecast
    return (
        f"The bloom surely carries {load_text(f.sure)} a day, likely {load_text(f.likely)} "
        f"(from {f.n_readings} readings; sure means 90{NBSP}% probable)."
    )


def _weaker_guild(s: Situation) -> str:
    a, b = s.forecast.band("capacity_a", LIKELY), s.forecast.band("capacity_b", LIKELY)
    if b < 0.7 * a:
        return "The second half of the bloom, which clears nitrite, runs behind the first."
    if a < 0.7 * b:
        return "The first half of the bloom, which clears ammonia, is the smaller one."
    return "Both halves of the bloom are about equally strong."


def _surprise_reasons(s: Situation) -> list[str]:
    return [
        f"The {x.quantity} {x.typed} of {x.at:%a %-d %b} does not fit the other readings "
        f"({percent(x.probability)} likely): repeat it."
        for x in s.forecast.surprises[-2:]
    ]


def _dry(s: Situation) -> Verdict:
    load = s.forecast.batches[-1].together if s.forecast.batches else 0.0
    reasons = [f"It will hold about {s.units.volume(s.volume_l)}."]
    if load:
        reasons.append(f"The animals planned so far will put out {load_text(load)} a day when grown up.")
    reasons.append("What would change this: the fill run, which leads to water at its target step by step.")
    return Verdict(
        "hold",
        "Nothing alive yet.",
        "This tank is still dry.",
        "Its fill run leads to water, step by step.",
        tuple(reasons),
    )


def _empty(s: Situation) -> Verdict:
    if s.living:
        return Verdict(
            "test",
            "Test now.",
            "Animals are in and nothing has been read yet.",
            "Ammonia, nitrite and pH come first.",
            (
                "Without a reading nobody knows what they live in.",
                "What would change this: one reading of ammonia, nitrite and pH.",
            ),
        )
    return Verdict(
        "test",
        "Nothing to forecast yet.",
        "Log the first test, or say what was put in.",
        "",
        (
            f"The school here is {s.school.name}: {s.school.short}",
            "Until a reading comes, the chart shows what tanks like this one do on average.",
            "What would change this: the first reading of ammonia and nitrite.",
        ),
    )


def over_words(s: Situation) -> list[str]:
    """What is over its limit, with the interval that the kit allows."""
    lv, found = s.levels, []
    told = "is about" if lv.changed_at is None else "should be, after the change, about"
    if lv.nh3 and lv.nh3.seen >= lv.limits.nh3 and lv.nh3_band:
        found.append(
            f"Free ammonia {told} {mg_text(lv.nh3.seen)} as N ({figure(lv.nh3.low, 2)} to "
            f"{figure(lv.nh3.high, 2)} by the kit's step), at pH {figure(lv.ph)}"
            f"{'' if lv.ph_measured else ' (not read lately)'} and {s.units.temp(lv.temp_c)}: "
            f"it {lv.nh3_band.words}. The limit for the animals here is {figure(lv.limits.nh3)}."
        )
    if lv.no2 and lv.no2.seen >= lv.limits.no2 and lv.no2_band:
        found.append(
            f"Nitrite {told} {mg_text(lv.no2.seen)} as N ({figure(lv.no2.low, 2)} to "
            f"{figure(lv.no2.high, 2)}): it {lv.no2_band.words}. The limit is {figure(lv.limits.no2)}."
        )
    return found


def _at_words(at: datetime, now: datetime) -> str:
    """'now', 'at 20:40', 'tomorrow at 07:30'."""
    if at <= now:
        return "now"
    return f"at {at:%H:%M}" if at.date() == now.date() else f"{day_words(at, now)} at {at:%H:%M}"


def _over_words(s: Situation) -> str:
    """The worse of the two against its limit, in a sentence."""
    lv = s.levels
    what, found, limit = (
        ("nitrite", lv.no2, lv.limits.no2) if lv.worst == "nitrite" else ("free ammonia", lv.nh3, lv.limits.nh3)
    )
    assert found is not None
    is_about = f"{what} is about" if lv.changed_at is None else f"after the change {what} should be about"
    return f"{is_about[0].upper()}{is_about[1:]} {mg_text(found.seen)}; the limit here is {figure(limit)}."


def _act(s: Situation) -> Verdict:
    response = s.response
    assert response is not None
    lv = s.levels
    because = _over_words(s)
    call, advice = "Act now.", "Do not feed until it is over."
    if lv.changed_at is not None:
        call = f"Test {_at_words(response.retest_at, s.now)}."
        if response.changes:
            first = response.changes[0]
            advice = f"Else change {s.units.volume(first.litres)} {_at_words(first.at, s.now)}."
    elif response.changes:
        first, more = response.changes[0], response.changes[1:]
        call = f"Act now: change {s.units.volume(first.litres)}"
        if more:
            then = day_words(more[0].at, s.now)
            call += f", then {s.units.volume(more[0].litres)} {then}"
            call += f" and {len(more) - 1} more" if len(more) > 1 else ""
        call += "."
    reasons = over_words(s)
    reasons.append(_capacity_reason(s))
    reasons.append(f"The animals put out about {load_text(s.forecast.load_now)} a day.")
    if response.frees_ammonia:
        reasons.append("The new water has the higher pH: it frees ammonia for a while, so the steps are smaller.")
    reasons.append(f"What would change this: readings below the limits, and then {CLEAN_DAYS} clean days.")
    return Verdict("act", call, because, advice, tuple(reasons))


def _recovering(s: Situation) -> Verdict:
    assert s.episode is not None
    done = s.episode.clean_days
    if s.levels.changed_at is not None and done == 0:
        return _changed(s)
    words = {0: "No clean day yet", 1: "One clean day"}.get(done, f"{done} clean days")
    return Verdict(
        "hold",
        "Hold everything new.",
        f"{words} since the upset of {s.episode.since:%-d %b}; {CLEAN_DAYS} are asked.",
        test_advice(s),
        (
            "A day is clean when ammonia and nitrite both read at the kit’s lowest step.",
            _capacity_reason(s),
            _weaker_guild(s),
            f"What would change this: {CLEAN_DAYS - done} more clean day{'s' if CLEAN_DAYS - done > 1 else ''}.",
        ),
    )


def _changed(s: Situation) -> Verdict:
    """A change should have brought the water below the limits: only a reading tells."""
    lv = s.levels
    expected = [f"free ammonia to about {mg_text(lv.nh3.seen)}"] if lv.nh3 else []
    expected += [f"nitrite to about {mg_text(lv.no2.seen)}"] if lv.no2 else []
    assert lv.changed_at is not None
    due = next_test(s)
    return Verdict(
        "test",
        f"Test {_at_words(due, s.now)}.",
        f"The change should have brought {' and '.join(expected)}, below the limits here; only a reading tells.",
        "Do not feed until it is over.",
        (
            f"The limits for the animals here are {figure(lv.limits.nh3)} and {figure(lv.limits.no2)}{NBSP}mg/L as N.",
            _capacity_reason(s),
            f"What would change this: a reading now, and then {CLEAN_DAYS} clean days.",
        ),
    )


def _too_old(s: Situation) -> Verdict:
    last = s.forecast.last_reading
    assert last is not None
    return Verdict(
        "test",
        "Test before you trust this.",
        f"The last reading is {(s.now - last).days} days old, and the band widens with every day.",
        "Ammonia and nitrite are enough.",
        (_capacity_reason(s), *_surprise_reasons(s), "What would change this: a fresh reading of both."),
    )


def _repeat(s: Situation) -> Verdict:
    x = s.forecast.surprises[-1]
    return Verdict(
        "test",
        f"Repeat the {x.quantity} test.",
        f"{x.typed} does not fit the other readings: {percent(x.probability)} likely.",
        "A fresh vial, the full waiting time, daylight.",
        (
            *_surprise_reasons(s),
            _capacity_reason(s),
            "What would change this: a second reading that agrees, or one that does not.",
        ),
    )


def _batch(s: Situation) -> Verdict:
    batch, found = s.next_batch, s.next_gate
    assert batch is not None
    outlook = s.outlook(batch)
    if found is None or outlook is None:
        return _settled(s) if s.living else _cycling(s)
    reasons = [
        _capacity_reason(s),
        f"{batch.name} adds {load_text(outlook.load)} a day when grown up; "
        f"everything together would be {load_text(outlook.together)}.",
    ]
    reasons += [c.sentence for c in found.missing if c.key not in ("headroom",)][:4]
    if found.passed:
        reasons.append("What would change this: ammonia or nitrite on the next test.")
        return Verdict(
            "add",
            f"{batch.name} can go in.",
            f"The bloom is sure of {load_text(s.forecast.sure)} a day; "
            f"with them it carries {load_text(outlook.on_the_day)}.",
            "Test on the day after, and daily for a week.",
            tuple(reasons),
        )
    hard = found.holding
    headroom = next((c for c in hard if c.key == "headroom"), None)
    room = max(0.0, s.forecast.sure - s.forecast.load_now)
    if headroom:
        because = (
            f"The bloom is sure of {load_text(room)} of the {load_text(outlook.load)} a day it adds."
            if room >= 0.1
            else f"The bloom is not yet sure of any of the {load_text(outlook.load)} a day it adds."
        )
    else:
        because = f"Still missing: {hard[0].missing}."
    reasons.append(_change_words(s))
    return Verdict("hold", f"Hold {batch.name.lower()}.", because, test_advice(s), tuple(reasons))


def _change_words(s: Situation) -> str:
    batch = s.next_batch
    outlook = s.outlook(batch) if batch else None
    if outlook and outlook.first_sure and outlook.first_sure > s.now.date():
        return (
            f"What would change this: by {outlook.first_sure:%a %-d %b} the sure line should reach it; "
            "clean tests on the way bring it nearer."
        )
    return "What would change this: the missing points above."


def ready_words(s: Situation) -> str:
    r = s.forecast.readiness
    if r.already >= 0.9:
        return "The forecast says it would pass today."
    if r.p50 is None:
        return (
            f"More than half of the forecasts are not ready within {len(s.forecast.days) - s.forecast.today - 1} days."
        )
    late = f"{r.p90:%-d %b}" if r.p90 else "later than the chart shows"
    early = f"{r.p10:%-d %b}" if r.p10 else "?"
    return f"Ready about {r.p50:%a %-d %b}; four times in five between {early} and {late}."


def _cycling(s: Situation) -> Verdict:
    r = s.forecast.readiness
    state = "no batch is planned yet"
    because = (
        f"The bloom is sure of {load_text(s.forecast.sure)} a day so far."
        if s.forecast.sure >= 0.1
        else ("The bloom is still too small to be sure of anything.")
    )
    advice = "Plan the first batch." if r.already > 0.5 else test_advice(s)
    return Verdict(
        "hold",
        "Hold.",
        because,
        advice,
        (
            ready_words(s),
            _capacity_reason(s),
            _weaker_guild(s),
            *_surprise_reasons(s),
            f"What would change this: {state}; plan one and the gate will say what is missing.",
        ),
    )


def _settled(s: Situation) -> Verdict:
    f = s.forecast
    load = max(f.load_adult, f.load_now)
    if f.sure >= load and not s.entries.unheard:
        return Verdict(
            "hold",
            "Quiet.",
            f"The animals, grown up, put out {load_text(load)} a day; the bloom is sure of {load_text(f.sure)}.",
            test_advice(s),
            (
                _capacity_reason(s),
                _weaker_guild(s),
                *_surprise_reasons(s),
                "What would change this: a reading above zero, or a new batch on the plan.",
            ),
        )
    because = f"The bloom is sure of {load_text(f.sure)} of the {load_text(load)} a day that lives here, grown up."
    am, ni = latest(s.entries, "ammonia"), latest(s.entries, "nitrite")
    return Verdict(
        "hold",
        "Add nothing.",
        because if f.sure < load else "Something in the log cannot be read.",
        test_advice(s),
        (
            _capacity_reason(s),
            f"Last read: ammonia {am.reading.typed if am else 'never'}, nitrite {ni.reading.typed if ni else 'never'}.",
            _weaker_guild(s),
            *_surprise_reasons(s),
            "What would change this: clean tests over some days under this load.",
        ),
    )
