"""Un-ionised ammonia, the form that poisons, and what its levels mean."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

T_ZERO_K = 273.15


def unionised_fraction(ph: Any, temp_c: Any) -> Any:
    """Share of TAN that is NH3 in fresh water, 0 to 1. Scalars or arrays that broadcast.

    f = 1 / (1 + 10^(pKa - pH)), pKa = 0.09018 + 2729.92 / T_K, 0 to 50 deg C, pH 6 to 10
    (Emerson, Russo, Lund & Thurston 1975, J. Fish. Res. Board Can. 32:2379, eq. 8).

    >>> round(float(unionised_fraction(8.0, 25.0)), 4)
    0.0537
    """
    pka = 0.09018 + 2729.92 / (np.asarray(temp_c, dtype=float) + T_ZERO_K)
    return 1.0 / (1.0 + 10.0 ** (pka - np.asarray(ph, dtype=float)))


def unionised_fraction_salt(ph_nbs: Any, temp_c: Any, salinity: Any) -> Any:
    """Share of TAN that is NH3 in sea water of `salinity` g/kg, for a pH read on the NBS scale.

    Yao & Millero 1995 (Aquat. Geochem. 1:53), T in K, sea water pH scale; a hobby meter is calibrated
    with NBS buffers and reads about 0.12 to 0.15 higher, so that is taken off first.

    >>> round(float(unionised_fraction_salt(8.1, 25.0, 35.0)), 2)
    0.05
    """
    return 1.0 / (1.0 + ammonium_per_unionised(temp_c, salinity) * 10.0 ** -np.asarray(ph_nbs, dtype=float))


NBS_MINUS_SWS = 0.13  # a hobby meter, calibrated with NBS buffers, reads so much above the sea water scale at S 35
FRESH_BELOW_G_KG = 1.0


def ammonium_per_unionised(temp_c: Any, salinity: Any) -> Any:
    """10^pKa, so that NH3 = TAN / (1 + 10^pKa x 10^-pH); arrays that broadcast. Emerson et al. 1975 below 1 g/kg, else
    Yao & Millero 1995 with the pH taken as read on the NBS scale.

    >>> round(float(1 / (1 + ammonium_per_unionised(25.0, 0.0) * 10**-8.0)), 4)
    0.0537
    >>> round(float(1 / (1 + ammonium_per_unionised(25.0, 35.0) * 10**-8.1)), 2)
    0.05
    """
    t, s = np.asarray(temp_c, dtype=float) + T_ZERO_K, np.asarray(salinity, dtype=float)
    fresh = 0.09018 + 2729.92 / t
    salt = -_ln_k_salt(t, s) / np.log(10.0) + NBS_MINUS_SWS
    return 10.0 ** np.where(s < FRESH_BELOW_G_KG, fresh, salt)


def free_share(ph: Any, temp_c: Any, salinity: Any = 0.0) -> Any:
    """Share of TAN that is NH3 in this water, fresh or salt; pH as read with a hobby meter or kit."""
    return 1.0 / (1.0 + ammonium_per_unionised(temp_c, salinity) * 10.0 ** -np.asarray(ph, dtype=float))


def _ln_k_salt(t: Any, s: Any) -> Any:
    return -6285.33 / t + 0.0001635 * t - 0.25444 + (0.46532 - 123.7184 / t) * np.sqrt(s) + (-0.01992 + 3.17556 / t) * s


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


# 2-science.md section 3. Sensitive species use half of each limit.
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


CHRONIC_STALL_TAN = 5.0  # mg N/L; above it the second guild stalls (5-bloom-model.md, envelope)
