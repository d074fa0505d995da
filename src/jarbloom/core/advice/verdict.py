"""The verdict: one sentence that could be read aloud, and the reasons with their numbers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from jarbloom.core.advice.animal_jobs import animal_jobs
from jarbloom.core.advice.food import ration
from jarbloom.core.advice.milestone import milestone
from jarbloom.core.advice.said import Job, Verdict
from jarbloom.core.advice.situation import OVER, Situation
from jarbloom.core.advice.standing import still_open
from jarbloom.core.advice.testing import day_words, next_test, test_advice
from jarbloom.core.bloom.capacity import LIKELY
from jarbloom.core.findings.finding import Finding
from jarbloom.core.journal.clean import CLEAN_DAYS
from jarbloom.core.journal.log import latest
from jarbloom.core.model.findings import Feeding, Severity
from jarbloom.units import NBSP, figure, load_text, mg_text, percent


def verdict(s: Situation) -> Verdict:
    """The worst finding in words; where nothing presses, the next batch, the cycle, or 'Quiet'. The milestone is its
    second line."""
    return replace(_verdict(s), severity=s.findings.worst, milestone=milestone(s))


def _verdict(s: Situation) -> Verdict:
    """The first of these that holds decides; safety stands before everything else."""
    if not s.tank.filled:
        return _dry(s)
    worst = s.findings.pressing[0] if s.findings.pressing else None
    if worst is not None and worst.severity == Severity.ACT:
        return _act(s, worst)
    if s.forecast.last_reading is None and not s.living:
        return _empty(s)
    if s.findings.has("upset_open") and s.levels.changed_at is not None and not _clean_days(s):
        return _changed(s)
    if worst is not None and worst.severity == Severity.TEST:
        return _test(s, worst)
    if s.findings.has("upset_open"):
        return _recovering(s)
    passed = s.next_gate is not None and s.next_gate.passed
    if worst is not None and not passed:
        return _watch(s, worst)
    if s.next_batch is not None:
        return _batch(s)
    return _settled(s) if s.living else _cycling(s)


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


def over_words(s: Situation) -> list[str]:
    """What is over its limit, with the interval that the kit allows."""
    return [f.sentence for f in s.findings if f.key in OVER]


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


def _clean_days(s: Situation) -> int:
    return s.episode.clean_days if s.episode is not None else 0


def _others(s: Situation, worst: Finding) -> list[str]:
    """What else was found, said and done about it."""
    found = [f.sentence for f in s.findings if f is not worst and f.severity > Severity.KNOW]
    return [*dict.fromkeys(found)]


def _beside(s: Situation, worst: Finding) -> tuple[str, ...]:
    """The reasons under a verdict that a finding gives: its why, what never to do, the rest, and what ends it."""
    never = tuple(dict.fromkeys(n for f in s.findings.pressing for n in f.row.never))
    return (
        *([worst.sentence] if worst.found.short else []),
        worst.row.why,
        *_others(s, worst),
        *([f"Never now: {'; '.join(never)}."] if never else []),
        *([f.sentence for f in s.findings if f.severity == Severity.KNOW][:2]),
        _capacity_reason(s),
        f"What would change this: {worst.row.ends}.",
    )


def _act(s: Situation, worst: Finding) -> Verdict:
    call = f"Act now: {act_words(s, worst)}."
    first = next(iter(s.response.changes), None) if s.response is not None else None
    food = ration(s).words if s.living else ""
    if worst.key in OVER and s.levels.changed_at is not None:
        call = f"Test {_at_words(next_test(s).due, s.now)}."
        if first is not None:
            food = f"Else change {s.units.volume(first.litres)} {_at_words(first.at, s.now)}. {food}".strip()
    elif worst.key in OVER and s.response is not None and s.response.rests:
        call = f"Test {_at_words(next_test(s).due, s.now)}."
        food = f"No change until then: by all that was read, none is worth its strain now. {food}".strip()
    elif worst.key in OVER and first is not None:
        assert s.response is not None
        more = s.response.changes[1:]
        call = f"Act now: change {s.units.volume(first.litres)}"
        if more:
            call += f", then {s.units.volume(more[0].litres)} {_at_words(more[0].at, s.now)}"
            call += f" and {len(more) - 1} more" if len(more) > 1 else ""
        call += "."
    return Verdict("act", call, worst.short, food, _beside(s, worst))


def act_words(s: Situation, worst: Finding) -> str:
    """The first thing to do, as a clause: an act of the worst finding that nothing forbids, else a change or a test."""
    for key in worst.acts:
        if key not in s.findings.forbidden:
            title = s.reference.acts[key].title
            return title[0].lower() + title[1:]
    if s.response is not None:
        return next((f"change {s.units.volume(c.litres)} {_at_words(c.at, s.now)}" for c in s.response.changes),
                    "look, and test")  # fmt: skip
    if s.findings.share:
        return f"change {s.units.volume(s.findings.share * s.volume_l)}"
    return "look, and test"


def _at_words(at: datetime, now: datetime) -> str:
    """'now', 'at 20:40', 'tomorrow at 07:30'."""
    if at <= now:
        return "now"
    return f"at {at:%H:%M}" if at.date() == now.date() else f"{day_words(at, now)} at {at:%H:%M}"


def _test(s: Situation, worst: Finding) -> Verdict:
    found = next_test(s)
    call = f"{found.title} {found.day_words(s.now)}."
    food = ration(s).words if s.living and ration(s).level < Feeding.USUAL else ""
    return Verdict("test", call, worst.short, food, _beside(s, worst))


def _watch(s: Situation, worst: Finding) -> Verdict:
    food = ration(s).words if s.living and ration(s).level < Feeding.USUAL else ""
    advice = f"{food} {test_advice(s)}".strip()
    return Verdict("watch", "Watch.", worst.short, advice, _beside(s, worst))


def _recovering(s: Situation) -> Verdict:
    assert s.episode is not None
    done = s.episode.clean_days
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
    due = next_test(s).due
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


def _when(s: Situation) -> str:
    """The next batch's one date, as a clause of the advice."""
    date = s.date_of(s.next_batch) if s.next_batch else None
    if date is None:
        return ""
    return f"It can go in {date.words}." if date.day is not None else f"No day is in sight yet: {date.sets}."


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
    first = sorted(found.missing, key=lambda c: c.hardness == "taste")  # what holds before what is only to know
    reasons += [c.sentence for c in first if c.key not in ("headroom",)][:4]
    if found.passed:
        reasons.append("What would change this: ammonia or nitrite on the next test.")
        because = (
            f"{percent(outlook.p_safe_today or 0.0)} of the forecasts stay under the limits for 14{NBSP}days with them."
            if not s.full_load
            else f"The bloom is sure of {load_text(s.forecast.sure)} a day; "
            f"with them it carries {load_text(outlook.on_the_day)}."
        )
        return Verdict(
            "add",
            f"{batch.name} can go in.",
            because,
            "Test on the day after, and daily for a week.",
            tuple(reasons),
        )
    hard = found.holding
    headroom = next((c for c in hard if c.key == "headroom"), None) if s.full_load else None
    room = max(0.0, s.forecast.sure - s.forecast.load_now)
    if headroom:
        because = (
            f"The bloom is sure of {load_text(room)} of the {load_text(outlook.load)} a day it adds."
            if room >= 0.1
            else f"The bloom is not yet sure of any of the {load_text(outlook.load)} a day it adds."
        )
    else:
        because = f"Still missing: {found.missing_first}."
    reasons.append(_change_words(s))
    return Verdict(
        "hold", f"Hold {batch.name.lower()}.", because, f"{_when(s)} {test_advice(s)}".strip(), tuple(reasons)
    )


def _change_words(s: Situation) -> str:
    """The batch's one date, and what sets it."""
    date = s.date_of(s.next_batch) if s.next_batch else None
    if date is not None and date.day is not None:
        return f"What would change this: {date.sentence}; clean tests on the way bring it nearer."
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


def _apart(s: Situation, jobs: Sequence[Job]) -> Verdict:
    """The water is quiet, and those who live in it should not: until they are parted, or the keeper puts it off."""
    return Verdict(
        "watch",
        "Watch.",
        jobs[0].why,
        test_advice(s),
        (
            *(j.why for j in jobs[1:]),
            "The water itself is quiet.",
            _capacity_reason(s),
            "What would change this: another tank for one of them, or putting the job off until a day.",
        ),
    )


def _settled(s: Situation) -> Verdict:
    f = s.forecast
    load = max(f.load_adult, f.load_now)
    if f.sure >= load and not s.entries.unheard:
        now_due = [j for j in animal_jobs(s) if j.due <= s.now]
        if apart := still_open(now_due, s.entries, s.now):
            return _apart(s, apart)
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
