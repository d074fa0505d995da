"""What is known about an upset without being asked: signs, what changed before them, readings, answers, residents.

Every piece is a token that causes ask for (data/causes.toml), with its words, its moment and the entry it rests on.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta
from functools import cached_property

from jarbloom.core.animals.names import plural
from jarbloom.core.causes.clusters import CLUSTER_OF
from jarbloom.core.causes.piece import AFTER_WATER, SIGNS_FOR, Piece
from jarbloom.core.causes.readings import readings
from jarbloom.core.causes.told import answers, events, said, texts_of
from jarbloom.core.findings.facts import Facts
from jarbloom.core.journal.clean import is_clean
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.count import HeadCount
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.entry import Entry

OLD_SHARE = 0.8  # of a lifespan
MOUTH_FITS = 3.5  # lengths: what is that much shorter goes into a usual mouth
# What an answer takes back that was seen before it
CLEARS = {
    "heads_complete": ("short_count", "gone", "heads_short"),
    "smell_fresh": ("smell", "eggs_smell"),
    "flow_well": ("weak_flow",),
    "t_ok": ("t_high", "t_low", "t_drop"),
    "retest_apart": ("tan_up", "no2_up"),
}


class Evidence:
    """All pieces of a moment. Of one token the signs keep the first, the rest the latest."""

    def __init__(self, facts: Facts) -> None:
        self.facts = facts
        self.pieces: dict[str, Piece] = {}
        self.events: list[Piece] = []
        for piece in _all_pieces(facts):
            if piece.kind == "event":
                self.events.append(piece)
            held = self.pieces.get(piece.token)
            if held is None or held.kind == "event" or (piece.kind != "event" and piece.at >= held.at):
                self.pieces[piece.token] = piece
        for token, cleared in CLEARS.items():
            answer = self.pieces.get(token)
            if answer is not None and answer.kind == "answer":
                for other in cleared:
                    if other in self.pieces and self.pieces[other].at <= answer.at:
                        del self.pieces[other]
        for piece in _drawn(self):
            self.pieces.setdefault(piece.token, piece)

    def __contains__(self, token: str) -> bool:
        return token in self.pieces

    def has(self, *tokens: str) -> bool:
        return any(t in self.pieces for t in tokens)

    @cached_property
    def signs(self) -> tuple[Piece, ...]:
        return tuple(p for p in self.pieces.values() if p.token in CLUSTER_OF and p.kind in ("sign", "answer"))

    @cached_property
    def clusters(self) -> frozenset[str]:
        return frozenset(CLUSTER_OF[p.token] for p in self.signs) - {"calm"}

    @cached_property
    def began(self) -> datetime:
        """When the first sign of this upset was seen, else now."""
        return min((p.at for p in self.signs if p.token != "calm"), default=self.facts.now)

    def before(self, tokens: Iterable[str]) -> list[Piece]:
        """What happened of these, the latest first."""
        wanted = set(tokens)
        return sorted((p for p in self.events if p.token in wanted), key=lambda p: p.at, reverse=True)


def _all_pieces(facts: Facts) -> Iterator[Piece]:
    texts = texts_of(facts)
    yield from said(facts, texts)
    yield from events(facts)
    yield from readings(facts, texts)
    yield from answers(facts)
    yield from _residents(facts)


def _residents(facts: Facts) -> Iterator[Piece]:
    now, species = facts.now, facts.reference.species
    if facts.school.fish_in:
        yield Piece("fish_in", "tank", "the tank cycles with animals in", now)
    if facts.living and facts.forecast.n_readings and facts.forecast.load_now > 1.2 * facts.forecast.likely:
        yield Piece("load_over", "tank", "they put out more than the bloom likely carries", now)
    fish = [a for a in facts.living if a.species in species and species[a.species].group == "fish"]
    lengths = [a.length_cm or species[a.species].adult_cm for a in fish]
    if lengths and max(lengths) >= MOUTH_FITS * min(lengths):
        yield Piece("mouth_fits", "tank", f"{max(lengths):.2g} cm beside {min(lengths):.2g} cm: a mouth that fits", now)
    for a in facts.living:
        kind = species.get(a.species)
        came = next((e.at for e in facts.log.kinds(Arrival) if e.body.species == a.species), None)
        if kind is not None and came is not None and (now - came).days > OLD_SHARE * kind.lifespan_y * 365:
            yield Piece("old_animal", "event", f"{plural(kind.name, 2)} near the end of their span", came)
    deaths = [e for e in facts.log.kinds(Death) if now - e.at <= timedelta(days=60)]
    fresh = [e for e in deaths if now - e.at <= timedelta(hours=48)]
    if fresh:
        many = sum(e.body.count for e in fresh) > 1
        yield Piece("dead_many" if many else "dead_one", "sign",
                    f"{sum(e.body.count for e in fresh)} found dead", fresh[0].at, fresh[0].id)  # fmt: skip
    if len(deaths) > len(fresh) > 0:
        yield Piece("second_death", "tank", "not the first within two months", deaths[0].at, deaths[0].id)
    counts = [e for e in facts.log.kinds(HeadCount) if now - e.at <= SIGNS_FOR]
    for e in counts:
        before = sum(a.count for a in facts.living if a.species == e.body.species)
        if e.body.count < before:
            yield Piece("short_count", "sign", f"{e.body.count} of {before} counted", e.at, e.id)


# --- what several pieces say together ---
SETTLED = timedelta(days=2)  # a batch has shown what it puts out


def _clean_days(facts: Facts, since: datetime, until: datetime) -> list[Entry]:
    """The last clean test of each day between two moments."""
    found = [e for e in facts.log.kinds(Tested) if since <= e.at < until and is_clean(e.readings, facts.tank.kit)]
    return list({e.day: e for e in found}.values())


def _drawn(evidence: Evidence) -> Iterator[Piece]:
    now = evidence.facts.now
    water = evidence.before(["new_water", "untreated"])
    sudden = evidence.has("gasp", "breath", "dart", "redgill", "slime", "list", "pale", "bottom", "clamp", "coral_shut")
    if water and sudden and "calm" not in evidence and timedelta(0) <= evidence.began - water[0].at <= AFTER_WATER:
        yield Piece("after_water", "sign", "it began within a day of new water", water[0].at, water[0].entry_id)
    if len(evidence.clusters - {"who", "when"}) >= 2:
        yield Piece("two_clusters", "tank", "two different kinds of signs", now)
    if evidence.has("redgill", "browngill", "gasp") and "tan_0" in evidence and "fell_without" in evidence:
        yield Piece("tan_0_sick", "reading", "no ammonia reads, and the gills say otherwise", now)
    came = evidence.before(["batch", "first_animals"])
    if came:
        carried = _clean_days(evidence.facts, came[0].at + SETTLED, evidence.began)
        if len(carried) >= 2:
            words = f"clean tests on {len(carried)} days after the last animals came"
            yield Piece("carried", "reading", words, carried[-1].at, carried[-1].id)
    if "dead" in evidence and not evidence.has("dead_many", "dead_one"):
        yield Piece("dead_one", "sign", evidence.pieces["dead"].words, evidence.pieces["dead"].at)
