"""What a water change makes of the tank's water: ammonia, nitrite, KH, and the pH right after and once it is aired."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jarbloom.core.model.tank import Tank
from jarbloom.core.water.carbonate import Constants, mixed_ph
from jarbloom.core.water.dilution import after_change

LEAST_CO2_MG_L = 1.0  # of water that meets the air in a tank with animals; the air alone would hold 0.6
MOST_AIRED_PH = 9.0


@dataclass(frozen=True)
class MixedWater:
    """mg N/L, dKH; `aired`: pH once it has met the air as this tank does."""

    tan: float
    no2: float
    ph: float
    kh: float
    aired: float

    @property
    def worst_ph(self) -> float:
        """The higher of mixed and aired pH: free ammonia is judged by it."""
        return max(self.ph, self.aired)


def co2_mg_l(ph: float, kh: float) -> float:
    """Free CO2 of water in fresh-water equilibrium, about 3 KH 10^(7 - pH), KH in dKH (pK1 6.35 at 25 deg C); at
    least what a tank with animals holds."""
    return max(3.0 * kh * 10.0 ** (7.0 - ph), LEAST_CO2_MG_L)


def _aired_ph(kh: float, co2: float) -> float:
    """pH of water of this KH with so much CO2 in it."""
    return 7.0 + math.log10(max(3.0 * kh, 0.05) / co2)


def after_change_of(
    water: MixedWater, f: float, tank: Tank, salt: Constants, co2: float, source_ammonia: float | None = None
) -> MixedWater:
    """After a change of the fraction `f` with the tank's own refill. `co2`: what the tank's air keeps, mg/L.
    `source_ammonia`: mg N/L that the new water brought, where it was told.

    Mixed in the bucket the new water keeps its carbon; in the tank it comes back to the tank's own CO2.
    """
    source = tank.refill
    brings = source.brings_mg_n_l if source_ammonia is None else source_ammonia
    ph = mixed_ph(water.ph, water.kh, source.ph, source.kh_dkh, f, salt)
    kh = after_change(water.kh, f, source.kh_dkh)
    aired = ph if tank.water_kind != "fresh" else _aired_ph(kh, co2)
    return MixedWater(after_change(water.tan, f, brings), after_change(water.no2, f), ph, kh, min(aired, MOST_AIRED_PH))
