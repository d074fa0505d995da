"""Alkalinity, dissolved inorganic carbon and the pH of a mixture, for fresh water as a closed system.

Constants at 25 deg C and zero ionic strength: pK1 6.35, pK2 10.33, pKw 14.0 (Stumm & Morgan 1996).
Good to about 0.1 pH in a tank: temperature and ionic strength are left out.
"""

from __future__ import annotations

K1, K2, KW = 10**-6.35, 10**-10.33, 1e-14
HALVINGS = 34  # of ten pH units: to 1e-9
MEQ_PER_DKH = 17.848 / 50.04  # meq/L in one dKH


def carbon_mmol_l(ph: float, alk_meq_l: float) -> float:
    """Total dissolved inorganic carbon (mmol/L) of water with this pH and alkalinity (meq/L)."""
    h = 10.0**-ph
    carbonate_alk = max(alk_meq_l / 1000 - KW / h + h, 0.0)
    denominator = h * h + K1 * h + K1 * K2
    return 1000 * carbonate_alk * denominator / (K1 * h + 2 * K1 * K2)


def ph_of(alk_meq_l: float, dic_mmol_l: float) -> float:
    """pH of water with this alkalinity and inorganic carbon.

    >>> round(ph_of(2.0, carbon_mmol_l(7.4, 2.0)), 3)
    7.4
    """

    low, high = 2.0, 12.0
    for _ in range(HALVINGS):  # alkalinity rises with pH at fixed carbon, so halving always finds it
        mid = 0.5 * (low + high)
        h = 10.0**-mid
        ions = (K1 * h + 2 * K1 * K2) / (h * h + K1 * h + K1 * K2)
        alk = dic_mmol_l / 1000 * ions + KW / h - h
        low, high = (low, mid) if alk > alk_meq_l / 1000 else (mid, high)
    return 0.5 * (low + high)


def mixed_ph(ph_1: float, kh_1_dkh: float, ph_2: float, kh_2_dkh: float, share_2: float) -> float:
    """pH right after share_2 of water 2 has been mixed into water 1 (before it meets the air)."""
    alk_1, alk_2 = kh_1_dkh * MEQ_PER_DKH, kh_2_dkh * MEQ_PER_DKH
    alk = (1 - share_2) * alk_1 + share_2 * alk_2
    dic = (1 - share_2) * carbon_mmol_l(ph_1, alk_1) + share_2 * carbon_mmol_l(ph_2, alk_2)
    if alk <= 0.01 or dic <= 0.01:
        # Without measurable hardness the closed system says nothing: take the worse (higher) end.
        return max(ph_1, ph_2)
    return ph_of(alk, dic)
