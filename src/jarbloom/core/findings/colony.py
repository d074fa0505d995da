"""The bloom and its home: media, bed, medicine, and a load above what is proven."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import timedelta

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.clean import WASTE, reading_is_clean
from jarbloom.core.journal.hearing import Heard
from jarbloom.core.journal.kinds.bed import BedStirred
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.medicine import Medicine
from jarbloom.core.journal.proof import proven
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.findings import Severity
from jarbloom.core.model.species import Animals
from jarbloom.units import load_text

TOO_MUCH_BED = 33.0  # % of the bed; a fifth at a change is ordinary care
MUCH_MEDIA = 0.34  # of the media: less is ordinary care
OVER_LOAD = 1.2  # of what was there before: more new load at once is told
TRACE_DAYS = 14


def _lost(facts: Facts, hours: float) -> tuple[list[Entry], tuple[Heard, ...]]:
    """Media that cost the bloom its home, by the log and by words."""
    cleaned = [e for e in facts.lately(hours, MediaCleaned) if e.body.how != "tank_water" and e.body.part >= MUCH_MEDIA]
    beds = [e for e in facts.lately(hours, BedStirred) if (e.body.share or 100.0) >= 90]
    gentle = {e.id for e in facts.lately(hours, MediaCleaned) if e.body.how == "tank_water"}
    said = tuple(h for h in facts.said("media_tap", "media_new", "media_dry", hours=hours) if h.entry.id not in gentle)
    said += tuple(h for h in facts.said("bed_out", hours=hours) if h not in said)
    return [*cleaned, *beds], said


@rule("media_lost")
def media_lost(facts: Facts) -> Iterable[Found]:
    entries, said = _lost(facts, 24 * 14)
    if not entries and not said:
        return
    last = max([e.at for e in entries] + [h.at for h in said])
    yield Found(
        f"Media lost on {last:%-d %b} took part of the bloom with them: the spike takes days, a zero now proves "
        "nothing.",
        last, (*ids(entries), *ids(said)), None if facts.alive else Severity.WATCH,
    )  # fmt: skip


@rule("media_lost_trace")
def media_lost_trace(facts: Facts) -> Iterable[Found]:
    entries, said = _lost(facts, 24 * TRACE_DAYS)
    if not facts.alive or (not entries and not said):
        return
    last = max([e.at for e in entries] + [h.at for h in said])
    for quantity in WASTE:
        seen = facts.credible[quantity].reading
        if (
            seen is not None
            and seen.at > last
            and not reading_is_clean(seen.reading, facts.tank.kit)
            and seen.reading.low > 0
        ):
            yield Found(
                f"{quantity.capitalize()} reads {seen.reading.typed} after the media lost on {last:%-d %b}: the "
                "beginning of a spike.", seen.at, (seen.entry_id, *ids(entries), *ids(said)),
            )  # fmt: skip
            return


@rule("bed_moved")
def bed_moved(facts: Facts) -> Iterable[Found]:
    beds = [
        e for e in facts.lately(72, BedStirred) if (e.body.share if e.body.share is not None else 100.0) >= TOO_MUCH_BED
    ]
    if beds and facts.alive:
        yield Found(
            "A large part of the bed was stirred: ammonia and a want of oxygen may follow.", beds[-1].at, ids(beds)
        )


@rule("medicine")
def medicine(facts: Facts) -> Iterable[Found]:
    given = facts.lately(24 * 30, Medicine)
    said = facts.said("medicine", hours=24 * 14)
    if not given and not said:
        return
    ends = [e.at + timedelta(days=e.body.days or 1) - timedelta(days=1) for e in given]
    last = max([min(x, facts.now) for x in ends] + [h.at for h in said])
    yield Found(
        "A medicine is or was in the water: it may slow the bloom. Test daily in any course, carbon out while it lasts "
        "and back after. A vet knows which and how much.",
        last, (*ids(given), *ids(said)), None if facts.alive else Severity.WATCH,
    )  # fmt: skip


@rule("medicine_inverts")
def medicine_inverts(facts: Facts) -> Iterable[Found]:
    given, said = facts.lately(72, Medicine), facts.said("medicine", hours=72)
    if not facts.inverts or not (given or said):
        return
    ill = facts.said("invert_ill", "snail_up", "snail_shut", "dead", "list", hours=72)
    last = max([e.at for e in given] + [h.at for h in said])
    names = ", ".join(k.name for k in facts.inverts[:2])
    yield Found(
        f"A medicine with {names} in the tank: many kill invertebrates, copper above all.",
        last, (*ids(given), *ids(said), *ids(ill)), Severity.ACT if ill else Severity.TEST,
        acts=None if ill else ("look",), share=None if ill else 0.0,
    )  # fmt: skip


@rule("not_cycled")
def not_cycled(facts: Facts) -> Iterable[Found]:
    """Animals are in, and the school's own proof has not been given."""
    if (
        not facts.alive
        or facts.forecast.last_reading is None
        or proven(facts.tank, facts.log, facts.reference.schools, facts.now)
    ):
        return
    came = facts.newcomers(24 * 60)
    dirty = any(
        s.reading is not None and not reading_is_clean(s.reading.reading, facts.tank.kit)
        for s in facts.credible.values()
    )
    yield Found(
        "This tank is not cycled yet: the proof is still owed, and the animals live in what is left over. Test daily, "
        "feed little.", facts.now, ids(came), Severity.TEST if dirty else Severity.WATCH,
    )  # fmt: skip


@rule("load_up")
def load_up(facts: Facts) -> Iterable[Found]:
    """New load within a week, above what was sure before it."""
    joined = [*facts.newcomers(168), *facts.lately(24 * 45, Birth)]
    if not joined or not facts.alive:
        return
    f, species, temp = facts.forecast, facts.reference.species, facts.tank.temp_c
    new = load_of(_new(joined), species, temp, facts.now.date()).total
    before = max(f.load_now - new, 0.0)
    heads = sum(getattr(e.body, "count", 0) for e in joined)
    trace = any(
        s.reading is not None and s.reading.reading.low > 0 and s.reading.at >= facts.since(72)
        for s in facts.credible.values()
    )
    over = f.load_now > f.sure and new > 0.15 * f.load_now
    jump = before > 0 and new > (OVER_LOAD - 0.2) * before and new > 0.4 * f.load_now
    jump = jump and (f.load_now > f.sure or not facts.tested_clean(max(e.at for e in joined)))
    young = sum(e.body.count for e in joined if isinstance(e.body, Birth))
    many = trace and young >= 30
    if not over and not jump and not many:
        return
    last = max(e.at for e in joined)
    yield Found(
        f"{heads} animals joined lately: the load is {load_text(f.load_now)} a day now, the bloom is sure of "
        f"{load_text(f.sure)}. It follows in days; feed little and test daily.",
        facts.now if many else last, ids(joined), Severity.ACT if trace and (over or many) else None,
        share=0.25 if trace and (over or many) else 0.0,
    )  # fmt: skip


def _new(joined: list[Entry]) -> list[Animals]:
    return [Animals(e.body.species, e.body.count, e.body.length_cm, e.day) for e in joined]  # type: ignore[attr-defined]
