"""Test kits and what was read on them. Nitrogen forms in mg N/L."""

from __future__ import annotations

from dataclasses import dataclass

QUANTITIES = ("ammonia", "nitrite", "nitrate", "ph", "kh", "temp", "salinity")
NITROGEN = ("ammonia", "nitrite", "nitrate")

# mg of the named form that hold 1 mg N (IUPAC 2021 atomic masses; docs/science.md, units)
MG_PER_MG_N = {"N": 1.0, "NH3": 17.031 / 14.007, "NH4": 18.038 / 14.007, "NO2": 46.005 / 14.007, "NO3": 62.004 / 14.007}


@dataclass(frozen=True)
class Scale:
    """One scale of a kit: its colour steps in its own form ('N', 'NH4', 'NO2', ...)."""

    steps: tuple[float, ...]
    form: str = "N"

    @property
    def per_n(self) -> float:
        """Kit units that one mg N/L reads as."""
        return MG_PER_MG_N[self.form]


@dataclass(frozen=True)
class Kit:
    """A test kit. `misread` is the chance of taking a neighbouring colour step."""

    kind: str = "liquid"
    ammonia: Scale = Scale((0, 0.25, 0.5, 1, 2, 4, 8))
    nitrite: Scale = Scale((0, 0.25, 0.5, 1, 2, 5))
    nitrate: Scale = Scale((0, 5, 10, 20, 40, 80, 160), "NO3")
    misread: float = 0.17

    def scale(self, quantity: str) -> Scale:
        return getattr(self, quantity)


# What kits of a kind usually show, until the keeper types what stands on the card (practice; docs/science.md, readings)
USUAL_KITS = {
    "liquid": Kit(),
    "strip": Kit(
        "strip", Scale((0, 0.5, 1, 3, 6)), Scale((0, 0.5, 1, 5, 10)), Scale((0, 10, 25, 50, 100, 250), "NO3"), 0.30
    ),
    "photometer": Kit(
        "photometer", Scale((0, 0.1, 0.25, 0.5, 1, 2, 5)), Scale((0, 0.05, 0.1, 0.25, 0.5, 1)),
        Scale((0, 5, 10, 20, 40, 80, 160), "NO3"), 0.03,
    ),
}  # fmt: skip


@dataclass(frozen=True)
class Reading:
    """What was seen, as an interval [low, high]; `outer_*` also spans the neighbouring colour steps.

    Nitrogen forms in mg N/L (high may be None: open top), pH without unit, KH in dKH, temp in deg C.
    `typed` and `form` keep what the keeper wrote and on which scale.
    """

    quantity: str
    typed: str
    seen: float
    low: float
    high: float | None
    outer_low: float
    outer_high: float | None
    form: str = "N"
    misread: float = 0.17
    n_steps: int = 6
    masked: bool = False  # something in the water upsets this test: kept, but not believed
