"""The target dose of a fishless cycle, sized by the animals that are planned instead of by a ritual number."""

from __future__ import annotations

from jarbloom.core.model.schools import Cycling

LOAD_FACTOR = 2.0  # the proof asks for twice what they put out, grown up (docs/science.md, bioload)
USUAL_RANGE = (1.0, 2.0)  # mg N/L, of schools that name none: a kit reads the lower well, the higher stalls nothing
FAR_ABOVE = 1.25  # a target so many times the sized one only takes longer


def sized_target_mg_n_l(load_mg_n_day: float, volume_l: float, school: Cycling) -> float:
    """mg N/L to dose, within the school's own range: a day's dose is twice a day's load.

    >>> from types import SimpleNamespace as S
    >>> school = S(dose_low_mg_n_l=1.0, dose_high_mg_n_l=2.0)
    >>> [sized_target_mg_n_l(load, 100.0, school) for load in (20.0, 70.0, 400.0)]
    [1.0, 1.4, 2.0]
    """
    low, high = (school.dose_low_mg_n_l, school.dose_high_mg_n_l) if school.dose_high_mg_n_l else USUAL_RANGE
    return round(min(max(LOAD_FACTOR * load_mg_n_day / volume_l, low), high), 1)


def lower_target(target_mg_n_l: float, load_mg_n_day: float, volume_l: float, school: Cycling) -> float | None:
    """The sized target where the one in use is far above it; None where nothing is to be gained, or no dose is part of
    the proof."""
    if load_mg_n_day <= 0 or not any(r.kind == "clears_dose" for r in school.gate):
        return None
    sized = sized_target_mg_n_l(load_mg_n_day, volume_l, school)
    return sized if target_mg_n_l > FAR_ABOVE * sized else None
