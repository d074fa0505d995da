"""Causes ranked by everything that is known: log odds, with evidence that counts once.

The strengths of data/causes.toml stand for likelihood ratios of about 8, 3 and 1.5. Signs of one cluster are one sign
seen several times: the strongest counts whole, the next half. What a cause does not know speaks against it, by
cluster; so does a strong sign that should be there and is not, a little. All of it is judgement, so that no share is
ever told as a figure: only in words, and as a bar.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.causes.clusters import CLUSTER_OF, READING_OF, UNEXPLAINED, UNEXPLAINED_READING
from jarbloom.core.causes.evidence import Evidence
from jarbloom.core.causes.piece import Piece
from jarbloom.core.findings.facts import Facts
from jarbloom.core.model.causes import CauseRow, Causes

RATIO = {0: 0.0, 1: math.log(1.5), 2: math.log(3.0), 3: math.log(8.0)}
SECOND = 0.5  # of the next strongest of a cluster
ABSENT = math.log(0.8)  # for each strong sign that is not there, while others are
IN_WINDOW, OF_MANY = math.log(12.0), math.log(3.0)
GENERIC = frozenset({"batch", "new_water", "hot_room", "no_change", "topoff"})  # they happen in every tank
OUT_OF_WINDOW, NO_TRIGGER, NOT_NEEDED = math.log(0.3), math.log(0.12), math.log(0.6)
YOUNG_DAYS = 60
BRACKISH_LOW, BRACKISH_HIGH = 5.0, 15.0  # g/kg: fresh-water and sea parasites overlap between them
LEADING_SHARE, LEADING_MOST = 0.1, 5  # of the best: what first aid has to be right for
DANGER_SHARE = 0.03  # what endangers most is named from here on
TOO_CLOSE = 2.0  # the first two nearer than this cannot be told apart yet
POOR_FIT = math.log(4.0)  # evidence for the best below this: none fits well


@dataclass(frozen=True)
class Ranked:
    """A cause with its share of what is likely (never told as a figure), and what speaks for and against it."""

    row: CauseRow
    share: float
    evidence: float
    because: tuple[Piece, ...]
    against: tuple[Piece, ...]
    fit: str = ""

    @property
    def key(self) -> str:
        return self.row.key


@dataclass(frozen=True)
class Ranking:
    """All causes that can be, the likeliest first, and what they were ranked by."""

    causes: tuple[Ranked, ...]
    evidence: Evidence

    @property
    def leading(self) -> tuple[Ranked, ...]:
        """What first aid must be right for: the likely ones, and what endangers most although less likely."""
        if not self.causes:
            return ()
        best = self.causes[0].share
        likely = [c for c in self.causes if c.share >= LEADING_SHARE * best][:LEADING_MOST]
        return (*likely, *(c for c in self.dangerous if c not in likely))

    @property
    def dangerous(self) -> tuple[Ranked, ...]:
        if not self.causes:
            return ()
        best = self.causes[0].share
        return tuple(c for c in self.causes[:12] if c.row.danger >= 3 and c.share >= DANGER_SHARE * best)

    @property
    def enough(self) -> bool:
        """Whether anything was seen, read over a limit or answered that asks for a cause."""
        return bool(self.evidence.signs) or any(p.token in READING_OF for p in self.evidence.pieces.values())

    @property
    def close(self) -> bool:
        """The first two cannot be told apart yet."""
        return len(self.causes) > 1 and self.causes[0].share < TOO_CLOSE * self.causes[1].share

    @property
    def poor(self) -> bool:
        return bool(self.causes) and self.causes[0].evidence < POOR_FIT


def rank(facts: Facts) -> Ranking:
    return rank_by(Evidence(facts), facts.reference.causes)


def rank_by(evidence: Evidence, causes: Causes) -> Ranking:
    rows = [r for r in causes.rows.values() if possible(r, evidence.facts)]
    scored = [_score(r, evidence, causes) for r in rows]
    if not scored:
        return Ranking((), evidence)
    top = max(s[0] for s in scored)
    weights = [math.exp(s[0] - top) for s in scored]
    total = sum(weights)
    found = [
        Ranked(row, w / total, told, because, against)
        for row, w, (_, told, because, against) in zip(rows, weights, scored, strict=True)
    ]
    found.sort(key=lambda c: -c.share)
    best = found[0].share
    second = found[1].share if len(found) > 1 else 0.0
    return Ranking(
        tuple(Ranked(c.row, c.share, c.evidence, c.because, c.against, _fit(n, c.share, best, second))
              for n, c in enumerate(found)),
        evidence,
    )  # fmt: skip


def _fit(place: int, share: float, best: float, second: float) -> str:
    if place == 0 and best >= TOO_CLOSE * second:
        return "fits best"
    if share >= best / 5:
        return "fits well"
    return "could add" if share >= best / 30 else "fits poorly"


def possible(row: CauseRow, facts: Facts) -> bool:
    """Whether it can hit this tank at all."""
    salinity = facts.tank.salinity_g_kg
    by_water = {
        "any": True, "fresh": not facts.salted, "salted": facts.salted, "low": salinity < BRACKISH_HIGH,
        "high": salinity > BRACKISH_LOW,
    }  # fmt: skip
    by_need = {"": True, "inverts": bool(facts.inverts) or not facts.living, "corals": bool(facts.corals)}
    return by_water[row.water] and by_need[row.needs]


def _score(
    row: CauseRow, evidence: Evidence, causes: Causes
) -> tuple[float, float, tuple[Piece, ...], tuple[Piece, ...]]:
    """(log odds with the prior, of the evidence alone, what speaks for it, what against)."""
    supports, opposes = causes.supports(row), causes.opposes(row)
    for_it = [(t, s) for t, s in supports.items() if t in evidence and evidence.pieces[t].kind != "event"]
    happened = [(t, s) for t, s in supports.items() if t in evidence and evidence.pieces[t].kind == "event"]
    against = [(t, s) for t, s in opposes.items() if t in evidence]
    said = _counted_once(for_it) - _counted_once(against)
    trigger, cause_of = _trigger(row, evidence)
    own_triggers = {p.token for p in cause_of}
    said += sum(0.5 * RATIO[int(s)] for t, s in happened if t not in own_triggers)
    if row.only_with and not evidence.has(*row.only_with):
        said += NO_TRIGGER
    said += trigger + _unexplained(supports, evidence) + _absent(supports, evidence)
    prior = _prior(row, evidence, causes)
    because = [evidence.pieces[t] for t, _ in sorted(for_it, key=lambda x: -x[1])]
    return (
        prior + said,
        said,
        tuple(_once([*cause_of, *because, *(evidence.pieces[t] for t, _ in happened)])),
        tuple(_once(evidence.pieces[t] for t, _ in sorted(against, key=lambda x: -x[1]))),
    )


def _once(pieces: Iterable[Piece]) -> list[Piece]:
    """Each entry once: its words are the same however many signs they name."""
    found: dict[object, Piece] = {}
    for p in pieces:
        found.setdefault((p.entry_id, p.words) if p.entry_id is not None else p.token, p)
    return list(found.values())


def _counted_once(tokens: Iterable[tuple[str, float]]) -> float:
    by_cluster: dict[str, list[float]] = {}
    for token, strength in tokens:
        cluster = CLUSTER_OF.get(token) or READING_OF.get(token) or token
        by_cluster.setdefault(cluster, []).append(RATIO[int(strength)])
    total = 0.0
    for ratios in by_cluster.values():
        ratios.sort(reverse=True)
        total += ratios[0] + (SECOND * ratios[1] if len(ratios) > 1 else 0.0)
    return total


def _unexplained(supports: Mapping[str, float], evidence: Evidence) -> float:
    """What is there and the cause does not know."""
    known = {CLUSTER_OF[t] for t in supports if t in CLUSTER_OF and t in evidence}
    total = sum(math.log(UNEXPLAINED[c]) for c in evidence.clusters if c not in known)
    read = {READING_OF[p.token] for p in evidence.pieces.values() if p.kind == "reading" and p.token in READING_OF}
    known_readings = {READING_OF[t] for t in supports if t in READING_OF}
    return total + sum(math.log(UNEXPLAINED_READING) for c in read - known_readings)


def _absent(supports: Mapping[str, float], evidence: Evidence) -> float:
    """Strong signs that should be there, while the keeper has told others."""
    if not evidence.clusters:
        return 0.0
    wanted = {CLUSTER_OF[t] for t, s in supports.items() if s >= 3 and t in CLUSTER_OF}
    here = {CLUSTER_OF[t] for t in supports if t in CLUSTER_OF and t in evidence}
    return ABSENT * len(wanted - here)


def _trigger(row: CauseRow, evidence: Evidence) -> tuple[float, list[Piece]]:
    """What set it off: the best of its triggers, by how far back it lies."""
    found = evidence.before(row.after)
    if not found:
        return (NO_TRIGGER if row.needs_trigger else (0.0 if row.slow or not row.after else NOT_NEEDED)), []
    scored = []
    for piece in found:
        weight = OF_MANY if piece.token in GENERIC else IN_WINDOW
        share = _within(row, (evidence.began - piece.at) / timedelta(hours=1))
        scored.append((OUT_OF_WINDOW + share * (weight - OUT_OF_WINDOW), piece))
    best = max(scored, key=lambda x: x[0])
    return best[0], [best[1]] if best[0] > 0 else []


def _within(row: CauseRow, hours: float) -> float:
    """1 inside the window of onset, falling to 0 at half its start and at twice its end."""
    earliest, _, latest = row.onset_h
    if hours < -2:  # after the first sign: the clocks of keepers are not that exact
        return 0.2 if hours > -24 else 0.0
    if hours < earliest:
        return 1.0 if earliest <= 6 else max(0.4, hours / earliest)
    if hours <= latest:
        return 1.0
    return max(0.0, 1.0 - math.log(hours / latest) / math.log(2.0)) if latest > 0 else 0.0


def _prior(row: CauseRow, evidence: Evidence, causes: Causes) -> float:
    """Of 100 upsets, by the age of the tank, shared out among the causes of its group."""
    facts = evidence.facts
    group = causes.group_of(row)
    young = (facts.now.date() - facts.tank.started).days < YOUNG_DAYS
    of_group = sum(1 for r in causes.rows.values() if r.group == row.group and possible(r, facts))
    return math.log((group.young if young else group.old) / max(of_group, 1))
