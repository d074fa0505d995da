"""Whether a test can be believed, and what stands in the log only in words."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta

from jarbloom.core.bloom.ensemble import LOST_DAYS
from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.clean import CLEAN_AT_MOST_MG_N_L, WASTE, is_clean, reading_is_clean
from jarbloom.core.journal.hearing import Heard, SaidNumber
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.findings import Feeding, Severity
from jarbloom.core.upset.credible import BOUND_FOR, VANISHED_MG_N_L, confirmed, readings_of
from jarbloom.core.water.ammonia import NH3_BANDS, unionised_fraction
from jarbloom.units import NBSP, figure, percent

STALE_DAYS = 4  # of a tank that cycles
STALE_DAYS_SETTLED = 10  # a stocked tank without an upset or a plan is tested weekly
WORDS_BESIDE = timedelta(hours=2)  # words this near a reading are about it


@rule("never_tested")
def never_tested(facts: Facts) -> Iterable[Found]:
    if not facts.alive:
        long_in = facts.said("animals_long_in")
        if long_in:
            yield Found("By your words animals have been in for a while; log them with 'in', and test today.",
                        facts.now, ids(long_in))  # fmt: skip
        return
    if facts.forecast.last_reading is None:
        yield Found(
            f"{facts.heads} animals are in and nothing has been read yet: ammonia, nitrite and pH come first.",
            facts.now,
        )


@rule("stale")
def stale(facts: Facts) -> Iterable[Found]:
    last = facts.forecast.last_reading
    if last is None:
        return
    limit = STALE_DAYS_SETTLED if facts.alive and facts.forecast.batches == () else STALE_DAYS
    if facts.now - last > timedelta(days=limit):
        yield Found(f"The last reading is {(facts.now - last).days} days old; ammonia and nitrite are enough.",
                    facts.now)  # fmt: skip


@rule("masked")
def masked(facts: Facts) -> Iterable[Found]:
    """A binder within two days of an ammonia reading, a reading marked so, or a kit for other water."""
    binders = [e for e in facts.lately(BOUND_FOR.total_seconds() / 3600 + 48, Conditioner) if e.body.detoxifies]
    last = next(iter(readings_of(facts.log, "ammonia", 1)), None)
    marked = [e for e in facts.lately(48, Tested) if any(r.masked for r in e.readings)]
    wrong = facts.said("test_wrong", hours=48)
    binder = binders[-1] if binders else None
    said = facts.said("masking", hours=48)
    if wrong:
        yield Found("A kit or card for other water does not fit this tank and may mask ammonia. Repeat with one "
                    "that fits; until then believe the animals.", wrong[-1].at, ids(wrong))  # fmt: skip
    elif marked:
        yield Found("A reading is marked as masked: nothing is concluded from it. Another kind of test tells.",
                    marked[-1].at, ids(marked))  # fmt: skip
    elif binder is not None and (last is None or last.at > binder.at):
        hours = (facts.now - binder.at).total_seconds() / 3600
        yield Found(
            f"A binder went in {hours:.0f}{NBSP}hours ago: ammonia may be masked, a low reading proves nothing. "
            "It wears "
            "off within two days (37 % still bound after 24 hours, 14 % after 48); test again at 24 and 48 hours, with "
            "another kind of test if you have one.",
            binder.at, (binder.id, *([last.entry_id] if last else [])),
        )  # fmt: skip
    elif binder is None and said:
        yield Found("A binder is in the water by your words: ammonia may be masked, and it wears off within two days.",
                    said[-1].at, ids(said))  # fmt: skip
    elif binder is not None and facts.alive:
        yield Found("A binder is in the water: it wears off within two days, and what it holds comes back. Test then.",
                    binder.at, (binder.id,), severity=Severity.WATCH, feeding=Feeding.HALF)  # fmt: skip


@rule("doubtful_low")
def doubtful_low(facts: Facts) -> Iterable[Found]:
    for quantity in WASTE:
        seen = facts.credible[quantity]
        if seen.doubt == "low" and seen.last is not None and seen.reading is not None:
            yield Found(
                f"{quantity.capitalize()} {seen.last.reading.typed} after {seen.reading.reading.typed} is doubtful: "
                "until a second test agrees, the higher one counts.",
                facts.now, (seen.last.entry_id, seen.reading.entry_id), tests=(quantity,),
            )  # fmt: skip
            return
    if vanished := _vanished(facts):
        yield vanished
        return
    old = [h for h in facts.said("test_old", hours=24) if isinstance(h.entry.body, Tested) or h.numbers]
    if old and not _tested_after(facts, old[-1].entry.order):
        yield Found("The test is past its date, by your words: its readings are doubtful. Repeat with fresh reagents.",
                    old[-1].at, ids(old))  # fmt: skip


def _tested_after(facts: Facts, order: tuple[int, int]) -> bool:
    """Both forms were read clean or not by a later test without doubt."""
    return any(e.order > order and is_clean(e.readings, facts.tank.kit) is not None for e in facts.lately(48, Tested))


def _vanished(facts: Facts) -> Found | None:
    """Ammonia went, and neither nitrite nor nitrate came: mass balance says that one of the tests is wrong."""
    am = readings_of(facts.log, "ammonia", 2)
    if len(am) < 2 or am[0].at - am[1].at > timedelta(days=4):
        return None
    last, before = am
    gone = before.reading.low - (last.reading.high if last.reading.high is not None else last.value)
    changed = any(before.order <= e.order <= last.order for e in facts.log.kinds(Change, Conditioner)[-20:])
    if gone < VANISHED_MG_N_L or changed or facts.tank.planted:
        return None
    ni = next((r for r in readings_of(facts.log, "nitrite") if r.entry_id == last.entry_id), None)
    na = next((r for r in readings_of(facts.log, "nitrate") if r.entry_id == last.entry_id), None)
    if ni is None or na is None or ni.value > 0.2 or na.value > 0.4 * gone:
        return None
    return Found(
        f"Ammonia fell by at least {figure(gone, 2)}{NBSP}mg/L and neither nitrite nor nitrate came: nitrogen does not "
        "vanish, so one of the readings is doubtful.",
        facts.now, (last.entry_id, before.entry_id), tests=("ammonia", "nitrite"),
    )  # fmt: skip


@rule("surprise")
def surprise(facts: Facts) -> Iterable[Found]:
    if facts.alive:
        return  # with animals in, the rules about high and low readings say what follows
    for quantity in WASTE:
        last = facts.credible[quantity].last
        odd = next((x for x in facts.forecast.surprises if last is not None and x.entry_id == last.entry_id
                    and x.quantity == quantity), None)  # fmt: skip
        if odd is None or last is None or confirmed(last, readings_of(facts.log, quantity)[1:]):
            continue
        yield Found(
            f"{quantity.capitalize()} {odd.typed} does not fit the other readings ({percent(odd.probability)} likely) "
            "and is doubtful: a fresh vial, the full waiting time, daylight.",
            odd.at, (odd.entry_id,), tests=(quantity,),
        )  # fmt: skip


@rule("lost")
def lost(facts: Facts) -> Iterable[Found]:
    if facts.forecast.lost:
        yield Found(
            "The model has lost this tank: no course that it knows comes to the readings of the last days. Its range "
            "is wide now, and no batch rests on it. Test ammonia and nitrite with a fresh vial or another kit, and log "
            "what is missing: a death, food, a rinse, a medicine, a change.",
            facts.now, ids(facts.lately(24 * LOST_DAYS, Tested)),
        )  # fmt: skip


@rule("unlogged")
def unlogged(facts: Facts) -> Iterable[Found]:
    if facts.forecast.unlogged and not facts.forecast.lost:
        yield Found(
            "The readings of the last days fit only if something happened that the log does not tell: a body, food, a "
            "rinsed filter. Look for it, and log it.",
            facts.now, ids(facts.lately(24 * LOST_DAYS, Tested)),
        )  # fmt: skip


@rule("odd_high")
def odd_high(facts: Facts) -> Iterable[Found]:
    for quantity in WASTE:
        seen = facts.credible[quantity]
        if seen.doubt == "odd_high" and seen.against is not None:
            yield Found(
                f"The {quantity} {seen.against.reading.typed} of {seen.against.at:%H:%M} is doubtful: two later "
                "readings agree against it.", seen.against.at, (seen.against.entry_id,),
            )  # fmt: skip


@rule("contradiction")
def contradiction(facts: Facts) -> Iterable[Found]:
    for quantity in WASTE:
        seen = facts.credible[quantity]
        if seen.doubt == "contradiction" and seen.last is not None and seen.against is not None:
            yield Found(
                f"{quantity.capitalize()} {seen.against.reading.typed} and {seen.last.reading.typed} within hours "
                "contradict each other: the worse counts until a third test, with a fresh vial or another kit.",
                facts.now, (seen.last.entry_id, seen.against.entry_id), tests=(quantity,),
            )  # fmt: skip
    ph, kh = facts.values("ph", 24 * 8), facts.values("kh", 24 * 60)
    if (
        len(ph) >= 2
        and facts.now - ph[-1].at <= timedelta(days=2)
        and ph[-2].seen - ph[-1].seen >= 0.9
        and len(kh) >= 1
    ):
        own = facts.own("kh", kh[-1].at) or facts.tank.kh_dkh
        if facts.now - kh[-1].at <= timedelta(days=2) and abs(kh[-1].seen - own) <= 1.0:
            yield Found(
                f"pH {ph[-1].typed} after {ph[-2].typed} while KH stands at {kh[-1].typed}: a contradiction, too much "
                "CO2 or a bad test. Repeat the pH with another test.",
                ph[-1].at, ids((ph[-1], kh[-1])), tests=("ph", "kh"),
            )  # fmt: skip
    for quantity, gap, words in (("salinity", 5.0, "salinity"),):
        seen_s = facts.values(quantity, 48)
        if len(seen_s) >= 2 and abs(seen_s[-1].seen - seen_s[-2].seen) >= gap:
            yield Found(
                f"Two readings of {words} within two days, {seen_s[-2].typed} and {seen_s[-1].typed}: a contradiction "
                "or a large step; both need a second look.",
                seen_s[-1].at, ids(seen_s[-2:]), tests=(quantity,),
            )  # fmt: skip


@rule("over_range")
def over_range(facts: Facts) -> Iterable[Found]:
    said = facts.said("test_over", hours=48)
    if said:
        yield Found("By your words the colour went beyond the card: it is over range, not zero. Test thinned 1 to 1.",
                    said[-1].at, ids(said))  # fmt: skip
        return
    for quantity in WASTE:
        seen = facts.credible[quantity].reading
        fresh = seen is not None and facts.now - seen.at <= timedelta(days=2)
        if fresh and seen is not None and seen.reading.high is None and facts.alive:
            yield Found(
                f"{quantity.capitalize()} reads {seen.reading.typed}, the top of the kit: this or more. Test it "
                "thinned 1 to 1 and double it.", seen.at, (seen.entry_id,), tests=(quantity,),
            )  # fmt: skip


@rule("not_fed")
def not_fed(facts: Facts) -> Iterable[Found]:
    if facts.alive:
        return
    given = facts.log.kinds(Dose, Feed, Rock)
    am = facts.values("ammonia", 24 * 60, words=False)
    loaded = any(not (isinstance(e.body, Feed) and e.body.grams == 0) for e in given) or any(v.low > 0 for v in am)
    said = facts.said("unfed")
    last = facts.credible["ammonia"].reading
    if said and not loaded and last is None:
        yield Found("Nothing was put in, by your words: a zero would prove nothing in water that was never loaded.",
                    said[-1].at, ids(said))  # fmt: skip
    elif not loaded and last is not None and reading_is_clean(last.reading, facts.tank.kit):
        yield Found(
            "Nothing was put in that the bloom could have cleared: the water is clean because it was never loaded, and "
            "proves nothing.", facts.now, (last.entry_id, *ids(said)),
        )  # fmt: skip


@rule("fine_words")
def fine_words(facts: Facts) -> Iterable[Found]:
    nh3 = facts.levels.nh3
    if nh3 is None or nh3.seen < NH3_BANDS[3].upto or facts.credible["ammonia"].last is None:
        return
    seen = facts.credible["ammonia"].last
    calm = [h for h in facts.near(seen.at, "calm", hours=3) if not h.any("gasp", "breath", "dart", "list")]
    if calm:
        yield Found(
            f"Ammonia {seen.reading.typed} would be {figure(nh3.seen, 2)}{NBSP}mg/L of free ammonia, and "
            "animals hardly look well in that for long: a contradiction. Repeat now; until then nothing is fed.",
            calm[-1].at, (seen.entry_id, *ids(calm)),
        )  # fmt: skip


@rule("unlogged_number")
def unlogged_number(facts: Facts) -> Iterable[Found]:
    """A number in a note that no test of that day bears out."""
    for heard in facts.said_numbers(48):
        missing = [n for n in heard.numbers if n.quantity != "food" and not _logged(facts, heard.at, n)]
        if not missing:
            continue
        what = ", ".join(f"{n.quantity} {n.value:g}" for n in missing[:3])
        text = f"A note names {what}: log it as a reading, so that it can be reckoned with."
        waste = [n for n in missing if n.quantity in WASTE and n.value > CLEAN_AT_MOST_MG_N_L]
        if waste and facts.alive:
            yield _said_waste(facts, heard, waste, text)
        else:
            yield Found(text, heard.at, (heard.entry.id,))
        return


def _said_waste(facts: Facts, heard: Heard, waste: list[SaidNumber], text: str) -> Found:
    """Ammonia or nitrite that stands only in words, over what is clean: taken as said on the careful side."""
    last = facts.credible[waste[0].quantity].last
    if last is not None and last.at >= facts.since(48) and last.value < waste[0].value:
        text += f" The last test reads {last.reading.typed}: a contradiction, and the worse counts until a third tells."
    ph = next((n.value for n in heard.numbers if n.quantity == "ph"), facts.levels.ph)
    temp = next((n.value for n in heard.numbers if n.quantity == "temp"), facts.levels.temp_c)
    free = sum(n.value for n in waste if n.quantity == "ammonia") * float(
        unionised_fraction(ph, temp, facts.levels.salinity_g_kg)
    )
    nitrite = sum(n.value for n in waste if n.quantity == "nitrite")
    over = free >= facts.levels.limits.nh3 or nitrite >= facts.levels.no2_acts_at
    if over and free >= NH3_BANDS[3].upto and heard.any("calm"):
        text += " Animals would hardly look well in that: a contradiction, so repeat it now."
        over = False
    if over:
        text += f" It would be about {figure(free, 2)}{NBSP}mg/L of free ammonia. Bind it, or change water, and test."
    return Found(
        text, heard.at, (heard.entry.id,), Severity.ACT if over else Severity.TEST,
        acts=("bind", "air", "record_reading") if over else ("record_reading",), tests=("ammonia", "nitrite", "ph"),
        feeding=Feeding.NONE if over else Feeding.PINCH, share=0.3 if over else 0.0,
    )  # fmt: skip


def _logged(facts: Facts, at: datetime, said: SaidNumber) -> bool:
    """A test of about that time reads about that."""
    near = max(0.3, 0.3 * said.value)
    return any(
        abs(v.at - at) <= 3 * WORDS_BESIDE and (abs(v.seen - said.value) <= near or v.low <= said.value <= v.high)
        for v in facts.values(said.quantity, 72, words=False)
    )


@rule("unheard")
def unheard(facts: Facts) -> Iterable[Found]:
    if facts.log.unheard:
        yield Found(facts.log.unheard, facts.now)
