"""The tank's cross-section with all who live here and are planned, at true scale on some date, zone by zone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.growth import adult_cm, length_on
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.stocking.budget import zone_lengths
from jarbloom.core.vessel.shapes import has_shape
from jarbloom.units import figure
from jarbloom.views.drawn.axes import LETTER, r1
from jarbloom.views.drawn.section import ZONES, Section, section

WIDTH, MARGIN, BESIDE = 372.0, 118.0, 9.0
BOLD = 1.1  # of a letter that warns
SIZED = {"today": "today, as bought", "year": "in a year", "adult": "grown up"}
FILL = 1.0  # animals end to end along the whole tank


@dataclass(frozen=True)
class ZoneLine:
    """A zone with the length of its animals end to end, against the tank's."""

    y: float
    words: str
    crowded: bool


@dataclass(frozen=True)
class Crowding:
    sized: str
    section: Section
    width: float
    height: float
    zones: tuple[ZoneLine, ...]
    title: str


def crowding(s: Situation, sized: str = "adult") -> Crowding | None:
    """None without animals, or where only the litres are known: there is nothing to draw to scale then."""
    coming = [replace(a, since=max(b.planned, s.now.date())) for b in s.waiting for a in b.items]
    everybody = [*s.living, *coming]
    if not everybody or not has_shape(s.tank) or s.tank.length_cm is None or s.tank.height_cm is None:
        return None
    on = {"today": s.now.date(), "year": s.now.date() + timedelta(days=365)}.get(sized)
    at = [replace(a, length_cm=_length(a, s.reference.species, on), since=None) for a in everybody]
    scale = (WIDTH - MARGIN) / s.tank.length_cm
    height = r1(s.tank.height_cm * scale + 16)
    here = len(s.living)
    drawn = section(s.tank, at[:here], s.reference, scale, height - 4, 2.0, at[here:])
    lines = _zones(at, s, drawn, s.tank.length_cm)
    written = max((len(z.words) * LETTER * (BOLD if z.crowded else 1) for z in lines), default=0.0)
    width = max(WIDTH, r1(drawn.x + drawn.width + BESIDE + written))
    return Crowding(
        sized if sized in SIZED else "adult", drawn, width, height, lines,
        f"Cross-section of {s.tank.name} with those here and planned, {SIZED.get(sized, SIZED['adult'])}",
    )  # fmt: skip


def _length(a: Animals, species: Mapping[str, Species], on: date | None) -> float:
    kind = species.get(a.species, species["unknown"])
    return adult_cm(a, kind) if on is None else length_on(a, kind, on)


def _zones(at: Sequence[Animals], s: Situation, drawn: Section, long: float) -> tuple[ZoneLine, ...]:
    """Fish and other movers end to end, by zone, at the height where the zone is drawn."""
    sums = zone_lengths(at, s.reference.species, adult=False)
    found, last = [], -99.0
    for zone, cm in sorted(sums, key=lambda z: sum(ZONES[z[0]])):
        low, high = ZONES[zone]
        y = drawn.water_top + (drawn.bed_top - drawn.water_top) * (low + high) / 2
        y = max(y, last + 17)
        last = y
        share = figure(s.units.value(cm, "length"), 2), figure(s.units.value(long, "length"), 2)
        words = f"{zone}: {share[0]} of {share[1]} {s.units.unit('length')}"
        found.append(ZoneLine(r1(y), words, cm > FILL * long))
    return tuple(found)
