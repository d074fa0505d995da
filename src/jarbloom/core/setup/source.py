"""The water that goes into a tank: as its settings reckon with it, and as it was read since."""

from __future__ import annotations

from jarbloom.core.model.tank import Tank, Water
from jarbloom.units import NBSP, figure

# How far the record of a water may lie from what its tank reckons with: name, unit, and a step of a kit (judgement)
APART = {
    "ph": ("pH", "", 0.3), "kh_dkh": ("KH", "dKH", 1.0), "ammonia_mg_n_l": ("ammonia", "mg/L as N", 0.1),
    "nitrate_mg_n_l": ("nitrate", "mg/L as N", 2.0),
}  # fmt: skip


def source_apart(tank: Tank, record: Water | None) -> tuple[str, ...]:
    """In which figures the water that a tank is filled from was read otherwise, in a line of a log, than the tank's
    settings have it: 'pH 8.2 (7.6 here)'."""
    if record is None or not record.by_log:
        return ()
    told = ((getattr(record.source, f), getattr(tank.source, f), *APART[f]) for f in APART)
    return tuple(
        f"{name} {figure(read)}{NBSP}{unit}".strip() + f" ({figure(here)} here)"
        for read, here, name, unit, apart in told
        if abs(read - here) >= apart - 1e-9
    )
