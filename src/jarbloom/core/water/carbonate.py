"""Alkalinity, dissolved inorganic carbon and the pH of a mixture, in fresh, brackish and sea water as a closed system.

K1, K2: Millero 2010 (Mar. Freshwater Res. 61:139), S 0 to 50, 0 to 50 deg C, sea water scale. Water: Millero 1995
(Geochim. Cosmochim. Acta 59:661). Borate: Dickson 1990 (Deep-Sea Res. 37:755), total boron 0.0004157 S/35 mol/kg
(Uppstrom 1974). pH is as a meter with NBS buffers shows it (ammonia.meter_offset). A litre is taken as a kilogram and
the total scale as the sea water scale: together less than 0.02 pH.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from jarbloom.core.water.ammonia import T_ZERO_K, meter_offset
from jarbloom.units import CACO3_PER_DKH

HALVINGS = 34  # of ten pH units: to 1e-9
CACO3_PER_MEQ = 50.04  # mg of CaCO3 that is one meq of alkalinity
MEQ_PER_DKH = CACO3_PER_DKH / CACO3_PER_MEQ  # meq/L in one dKH
USUAL_C = 25.0


@dataclass(frozen=True)
class Constants:
    """Of one water: dissociation constants in mol/kg, boron in mol/kg, and what a meter reads above the scale."""

    k1: float
    k2: float
    kw: float
    kb: float
    boron: float
    meter: float

    def h(self, ph: float) -> float:
        """Hydrogen ions, mol/kg, for a pH as read."""
        return 10.0 ** -(ph - self.meter)

    def carbonate_share(self, h: float) -> float:
        """Equivalents of carbonate alkalinity for each mol of inorganic carbon."""
        return (self.k1 * h + 2 * self.k1 * self.k2) / (h * h + self.k1 * h + self.k1 * self.k2)

    def other_alkalinity(self, h: float) -> float:
        """Borate, hydroxide and hydrogen, eq/kg."""
        return self.boron * self.kb / (self.kb + h) + self.kw / h - h


def constants(temp_c: float = USUAL_C, salinity: float = 0.0) -> Constants:
    """At a temperature and salinity (g/kg).

    >>> [round(-math.log10(x), 3) for x in (constants().k1, constants().k2)]
    [6.351, 10.33]
    >>> sea = constants(25.0, 35.0)  # Dickson et al. 2007, on the total scale: 5.847, 8.966, 8.598
    >>> [round(-math.log10(x), 2) for x in (sea.k1, sea.k2, sea.kb)]
    [5.84, 8.96, 8.6]
    """
    t, s = temp_c + T_ZERO_K, max(salinity, 0.0)
    ln_t, root = math.log(t), math.sqrt(s)
    pk1 = -126.34048 + 6320.813 / t + 19.568224 * ln_t
    pk1 += 13.4038 * root + 0.03206 * s - 5.242e-5 * s * s
    pk1 += (-530.659 * root - 5.8210 * s) / t - 2.0664 * root * ln_t
    pk2 = -90.18333 + 5143.692 / t + 14.613358 * ln_t
    pk2 += 21.3728 * root + 0.1218 * s - 3.688e-4 * s * s
    pk2 += (-788.289 * root - 19.189 * s) / t - 3.374 * root * ln_t
    ln_kw = 148.9802 - 13847.26 / t - 23.6521 * ln_t + (-5.977 + 118.67 / t + 1.0495 * ln_t) * root - 0.01615 * s
    ln_kb = (-8966.90 - 2890.53 * root - 77.942 * s + 1.728 * s * root - 0.0996 * s * s) / t
    ln_kb += 148.0248 + 137.1942 * root + 1.62142 * s - (24.4344 + 25.085 * root + 0.2474 * s) * ln_t
    ln_kb += 0.053105 * root * t
    return Constants(
        10.0**-pk1, 10.0**-pk2, math.exp(ln_kw), math.exp(ln_kb), 0.0004157 * s / 35, float(meter_offset(s))
    )


def carbon_mmol_l(ph: float, alk_meq_l: float, water: Constants | None = None) -> float:
    """Total dissolved inorganic carbon (mmol/L) of water with this pH and alkalinity (meq/L); by default fresh."""
    water = water or constants()
    h = water.h(ph)
    return 1000 * max(alk_meq_l / 1000 - water.other_alkalinity(h), 0.0) / water.carbonate_share(h)


def ph_of(alk_meq_l: float, dic_mmol_l: float, water: Constants | None = None) -> float:
    """pH, as a meter shows it, of water with this alkalinity and inorganic carbon; by default fresh.

    >>> round(ph_of(2.0, carbon_mmol_l(7.4, 2.0)), 3)
    7.4
    """
    water = water or constants()
    low, high = 2.0, 12.0
    for _ in range(HALVINGS):  # alkalinity rises with pH at fixed carbon, so halving always finds it
        mid = 0.5 * (low + high)
        h = water.h(mid)
        alk = dic_mmol_l / 1000 * water.carbonate_share(h) + water.other_alkalinity(h)
        low, high = (low, mid) if alk > alk_meq_l / 1000 else (mid, high)
    return 0.5 * (low + high)


def mixed_ph(
    ph_1: float, kh_1_dkh: float, ph_2: float, kh_2_dkh: float, share_2: float, water: Constants | None = None
) -> float:
    """pH right after share_2 of water 2 has been mixed into water 1 of the same salinity, before it meets the air."""
    alk_1, alk_2 = kh_1_dkh * MEQ_PER_DKH, kh_2_dkh * MEQ_PER_DKH
    alk = (1 - share_2) * alk_1 + share_2 * alk_2
    dic = (1 - share_2) * carbon_mmol_l(ph_1, alk_1, water) + share_2 * carbon_mmol_l(ph_2, alk_2, water)
    if alk <= 0.01 or dic <= 0.01:
        # Without measurable hardness the closed system says nothing: take the worse (higher) end.
        return max(ph_1, ph_2)
    return ph_of(alk, dic, water)
