"""Un-ionised ammonia, the form that poisons, and what its levels mean."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

T_ZERO_K = 273.15
LN_10 = float(np.log(10.0))
DEBYE_HUCKEL = 0.509  # of water at 25 deg C
METER_SCATTER = (0.7, 1.4)  # of the offset below, from probe to probe: 0.09 to 0.18 at S 35 (liquid junction)


def unionised_fraction(ph: Any, temp_c: Any, salinity: Any = 0.0) -> Any:
    """Share of TAN that is NH3, 0 to 1, for a pH as a hobby meter or kit shows it. Scalars or arrays that broadcast.

    f = 1 / (1 + 10^(pKa - pH)). Fresh: pKa = 0.09018 + 2729.92 / T_K, 0 to 50 deg C, pH 6 to 10 (Emerson, Russo, Lund
    & Thurston 1975, J. Fish. Res. Board Can. 32:2379, eq. 8). What salt adds to pKa is Yao & Millero 1995 (Aquat.
    Geochem. 1:53), S 0 to 40, on the sea water scale, so that `meter_offset` is added; all of it vanishes at S 0.

    >>> [round(100 * float(unionised_fraction(*x)), 2) for x in ((7.0, 25.0), (8.0, 25.0), (7.5, 20.0))]
    [0.56, 5.37, 1.24]
    >>> round(float(unionised_fraction(8.1, 25.0, 35.0)), 3)
    0.05
    """
    return 1.0 / (1.0 + ammonium_per_unionised(temp_c, salinity) * 10.0 ** -np.asarray(ph, dtype=float))


def ammonium_per_unionised(temp_c: Any, salinity: Any) -> Any:
    """10^pKa of `unionised_fraction`, so that NH3 = TAN / (1 + 10^pKa x 10^-pH); arrays that broadcast."""
    t, s = np.asarray(temp_c, dtype=float) + T_ZERO_K, np.asarray(salinity, dtype=float)
    of_salt = (0.46532 - 123.7184 / t) * np.sqrt(s) + (-0.01992 + 3.17556 / t) * s
    return 10.0 ** (0.09018 + 2729.92 / t - of_salt / LN_10 + meter_offset(s))


def meter_offset(salinity: Any) -> Any:
    """What a meter calibrated with NBS buffers shows above pH on the sea water scale: -log10 of the activity of H+.

    Davies' equation, A (I^0.5 / (1 + I^0.5) - 0.3 I), with I = 19.924 S / (1000 - 1.005 S) mol/kg (Dickson, Sabine &
    Christian 2007, ch. 5); S 0 to 35. Measured at S 35: 0.12 to 0.15, and 0.09 to 0.18 from probe to probe.

    >>> [round(float(meter_offset(s)), 3) for s in (0.0, 1.0, 10.0, 35.0)]
    [0.0, 0.06, 0.127, 0.124]
    """
    s = np.asarray(salinity, dtype=float)
    strength = 19.924 * s / (1000.0 - 1.005 * s)
    root = np.sqrt(strength)
    return DEBYE_HUCKEL * (root / (1 + root) - 0.3 * strength)


def unionised_range(ph: float, temp_c: float, salinity: float) -> tuple[float, float]:
    """(least, most) of `unionised_fraction` by how much meters differ in this salt; both the same in fresh water."""
    offset = float(meter_offset(salinity))
    lowest, highest = (ph - (k - 1) * offset for k in reversed(METER_SCATTER))
    return float(unionised_fraction(lowest, temp_c, salinity)), float(unionised_fraction(highest, temp_c, salinity))


def epa_acute_tan(ph: float, temp_c: float) -> float:
    """EPA 2013 fresh-water acute criterion (CMC) as TAN, mg N/L; a second opinion, set for wild species."""
    return (
        0.7249
        * (0.0114 / (1 + 10 ** (7.204 - ph)) + 1.6181 / (1 + 10 ** (ph - 7.204)))
        * min(51.93, 23.12 * 10 ** (0.036 * (20 - temp_c)))
    )


def epa_chronic_tan(ph: float, temp_c: float) -> float:
    """EPA 2013 fresh-water chronic criterion (CCC) as TAN, mg N/L.

    >>> round(epa_chronic_tan(7.0, 20.0), 1)
    1.9
    """
    return (
        0.8876
        * (0.0278 / (1 + 10 ** (7.688 - ph)) + 1.1994 / (1 + 10 ** (ph - 7.688)))
        * (2.126 * 10 ** (0.028 * (20 - max(temp_c, 7.0))))
    )


@dataclass(frozen=True)
class Band:
    """A band of concentration (mg N/L, below `upto`) and what it means."""

    key: str
    upto: float
    words: str
    hardness: str = "safety"


# docs/science.md, limits for animals. Sensitive species use half of each limit.
NH3_BANDS = (
    Band("fine", 0.01, "below any known harm"),
    Band("watch", 0.02, "to be watched"),
    Band("harm", 0.05, "harms over days"),
    Band("act", 0.2, "harms today"),
    Band("act_now", float("inf"), "harms now"),
)
NITRITE_BANDS = (
    Band("fine", 0.1, "below the usual watch level"),
    Band("watch", 0.25, "to be watched"),
    Band("act", 1.0, "harms today"),
    Band("act_now", float("inf"), "harms now"),
)
_FACTOR = {"sensitive": 0.5, "usual": 1.0, "hardy": 1.0}


def band(value: float, bands: tuple[Band, ...], sensitivity: str = "usual") -> Band:
    """The band in which a concentration lies for animals of this sensitivity."""
    factor = _FACTOR[sensitivity]
    return next(b for b in bands if value < b.upto * factor or b is bands[-1])


@dataclass(frozen=True)
class Limits:
    """Peaks that a batch must stay under, mg N/L. The start of 'harm' for NH3, of 'act' for nitrite."""

    nh3: float = 0.02
    no2: float = 0.25

    @staticmethod
    def for_animals(ammonia: str = "usual", nitrite: str = "usual", nitrite_factor: float = 1.0) -> Limits:
        """`nitrite_factor`: a school's factor for sea water, whose chloride keeps nitrite out of the gills."""
        no2 = NITRITE_BANDS[1].upto * _FACTOR[nitrite] * nitrite_factor
        return Limits(NH3_BANDS[1].upto * _FACTOR[ammonia], no2)

    def times(self, factor: float) -> Limits:
        return Limits(self.nh3 * factor, self.no2 * factor)


CHRONIC_STALL_TAN = 5.0  # mg N/L; above it the second guild stalls (docs/model.md, priors: the envelope)
