"""A plant of the inventory: what it bears, where it stands, how fast it takes nitrogen, and who eats it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Plant:
    """Temperatures in deg C, salinity in g/kg, height in cm. `uptake` of nitrogen, `light`: low, medium, high;
    `growth`: slow, medium, fast; `eaten`: hardly, some, gladly, by animals that eat plants, `eaten_by` in words."""

    key: str
    name: str
    scientific: str
    light: str
    growth: str
    uptake: str
    temp_low: float
    temp_high: float
    ph_low: float
    ph_high: float
    salt_high: float
    position: str  # foreground, midground, background, wood or rock, floating
    height_cm: float
    eaten: str
    eaten_by: str
    floating: bool
    caution: str
