"""What counts as clean: one notion for the gate, the school's proof, the end of an upset and the dosing job.

Clean means that the reading's upper edge lies within the kit's lowest step: '0' on a kit with steps 0, 0.25, 0.5 is
below 0.125 and clean; '<2', '0-2' and '0.1' are not, and neither is anything that a kit shows whose lowest step alone
reaches above what the schools call clean.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from jarbloom.core.journal.readings import lowest_edge
from jarbloom.core.model.kit import Kit, Reading

CLEAN_AT_MOST_MG_N_L = 0.25  # all schools of cycling ask for less than this (docs/science.md, clean water)
# A photometer shows no steps: with its error it is as clean as the lowest step of drops in quarters (judgement)
PHOTOMETER_AT_MOST_MG_N_L = 0.125
CLEAN_DAYS = 2  # so many clean days in a row end an upset
WASTE = ("ammonia", "nitrite")
_ROUNDING = 1e-9


def clean_edge_mg_n_l(kit: Kit, quantity: str) -> float:
    """mg N/L that the upper edge of a clean reading may have with this kit."""
    if kit.kind == "photometer":
        return PHOTOMETER_AT_MOST_MG_N_L
    scale = kit.scale(quantity)
    return min(lowest_edge(scale) / scale.per_n, CLEAN_AT_MOST_MG_N_L)


def too_coarse(kit: Kit, quantity: str) -> bool:
    """The kit cannot show clean water: its lowest step reaches too high."""
    scale = kit.scale(quantity)
    return kit.kind != "photometer" and lowest_edge(scale) / scale.per_n > CLEAN_AT_MOST_MG_N_L


def reading_is_clean(reading: Reading, kit: Kit) -> bool:
    return reading.high is not None and reading.high <= clean_edge_mg_n_l(kit, reading.quantity) + _ROUNDING


def is_clean(readings: Sequence[Reading], kit: Kit) -> bool | None:
    """True when ammonia and nitrite were both read and are clean; None when one is missing or masked."""
    return cleanness(kit)(readings)


def cleanness(kit: Kit) -> Callable[[Sequence[Reading]], bool | None]:
    """`is_clean` by this kit, for many tests: its edges are found once."""
    edges = {q: clean_edge_mg_n_l(kit, q) + _ROUNDING for q in WASTE}

    def judge(readings: Sequence[Reading]) -> bool | None:
        highs = {r.quantity: r.high for r in readings if r.quantity in edges and not r.masked}
        if len(highs) < len(edges):
            return None
        return all(high is not None and high <= edges[q] for q, high in highs.items())

    return judge
