"""Alkalinity as it is spent: what doses, food and animals have used since KH was read, and what changes brought."""

from __future__ import annotations

from datetime import timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.water.carbonate import CACO3_PER_MEQ
from jarbloom.core.water.recipes import alkalinity_meq
from jarbloom.units import CACO3_PER_DKH

CACO3_PER_MG_N = 7.14  # docs/science.md, ceiling of the filter
WARN_SHARE = 0.5  # of what was there: from here on KH is asked for
LONGEST_DAYS = 90  # further back a setting tells nothing
FIRST_DAYS = 30  # a stocked tank's KH is asked for at the latest after so long


def kh_left(s: Situation) -> tuple[float, float]:
    """(what KH comes to by the sums, what it was when last read or set), dKH. Nitrification spends 7.14 mg CaCO3 for
    each mg N; the alkalinity that came with a dose counts, and so does every change since."""
    kh = s.entries.latest("kh")
    first = s.now - timedelta(days=LONGEST_DAYS)
    since = kh.at if kh is not None else max(first, s.entries[0].at if s.entries else first)
    base = kh.value if kh is not None else s.tank.kh_dkh
    load = load_of(s.living, s.reference.species, s.tank.temp_c, s.now.date()).total
    events = [e for e in s.entries.kinds(Dose, Change)[-200:] if e.at > since]
    left, at = base, since
    for e in events:
        left -= _spent(s, load, (e.at - at).total_seconds() / 86400)
        at = e.at
        if isinstance(e.body, Dose):
            brought = CACO3_PER_MEQ * alkalinity_meq(e.body.mg_n, e.body.unit, s.tank.dose_from)
            left -= (e.body.mg_n * CACO3_PER_MG_N - brought) / s.volume_l / CACO3_PER_DKH
        elif isinstance(e.body, Change):
            f = min(1.0, e.body.litres / s.volume_l)
            left = (1 - f) * left + f * (s.tank.refill.kh_dkh if e.body.source_kh is None else e.body.source_kh)
    left -= _spent(s, load, (s.now - at).total_seconds() / 86400)
    return max(left, 0.0), base


def _spent(s: Situation, load_mg_n_day: float, days: float) -> float:
    return load_mg_n_day * max(days, 0.0) * CACO3_PER_MG_N / s.volume_l / CACO3_PER_DKH


def kh_is_due(s: Situation) -> bool:
    """KH is asked for where half of what was there may be spent."""
    left, base = kh_left(s)
    kh = s.entries.latest("kh")
    if kh is not None and s.now - kh.at < timedelta(days=3):
        return False
    return base > 0 and left < (1 - WARN_SHARE) * base
