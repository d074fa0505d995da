"""Alkalinity as it is spent: what doses, food and animals have used since KH was read, and what changes brought."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.levers import CYCLE_DKH
from jarbloom.core.bloom.mending import ALK_KEPT
from jarbloom.core.bloom.parameters import PH_BLOOM_STOPS
from jarbloom.core.journal.kinds.buffered import Buffered
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.water.carbonate import CACO3_PER_MEQ, MEQ_PER_DKH
from jarbloom.core.water.recipes import alkalinity_meq
from jarbloom.units import CACO3_PER_DKH, NBSP, figure, percent

CACO3_PER_MG_N = 7.14  # docs/science.md, ceiling of the filter
SOFT_SHARE = 0.75  # of the tank's own in soft water: below it the doses of a cycle find too little (judgement)
WARN_SHARE = 1 - ALK_KEPT  # of what was there: from here on KH is asked for
LONGEST_DAYS = 90  # further back a setting tells nothing
DOSES_AHEAD = 2  # so many are to find their alkalinity (judgement)
WORTH_RAISING = 0.1  # of P, for those to come (judgement)
LEAST_DKH = 1.5  # below it the pH falls (judgement)
FIRST_DAYS = 30  # a stocked tank's KH is asked for at the latest after so long


def kh_left(s: Situation) -> tuple[float, float]:
    """(what KH comes to by the sums, what it was when last read or set), dKH. Nitrification spends 7.14 mg CaCO3 for
    each mg N; the alkalinity that came with a dose counts, and so do every change and buffer since."""
    return s.once("kh_left", lambda: _kh_left(s))


def _kh_left(s: Situation) -> tuple[float, float]:
    kh = s.entries.latest("kh")
    first = s.now - timedelta(days=LONGEST_DAYS)
    since = kh.at if kh is not None else max(first, s.entries[0].at if s.entries else first)
    base = kh.value if kh is not None else s.tank.kh_dkh
    spent_a_day = s.upkeep.load * CACO3_PER_MG_N / s.volume_l / CACO3_PER_DKH
    left, at, brings = base, since, s.tank.refill.kh_dkh
    moved = s.entries.kinds(Dose, Change, Buffered)
    for e in moved[bisect_right(moved, since, key=lambda e: e.at) :]:
        left -= spent_a_day * max((e.at - at).total_seconds() / 86400, 0.0)
        at = e.at
        if isinstance(e.body, Dose):
            left -= spent_by_dose_dkh(s, e.body.mg_n, e.body.unit)
        elif isinstance(e.body, Buffered):
            left += e.body.rise_meq_l(s.volume_l) / MEQ_PER_DKH
        elif isinstance(e.body, Change):
            f = min(1.0, e.body.litres / s.volume_l)
            left = (1 - f) * left + f * (brings if e.body.source_kh is None else e.body.source_kh)
    left -= spent_a_day * max((s.now - at).total_seconds() / 86400, 0.0)
    return max(left, 0.0), base


def spent_by_dose_dkh(s: Situation, mg_n: float, unit: str = "") -> float:
    """dKH that a dose costs once it is nitrified, less what came with it."""
    brought = CACO3_PER_MEQ * alkalinity_meq(mg_n, unit, s.tank.dose_from)
    return (mg_n * CACO3_PER_MG_N - brought) / s.volume_l / CACO3_PER_DKH


def raised_since_read(s: Situation) -> bool:
    """A change or a buffer went in after KH was last read."""
    kh = s.entries.latest("kh")
    return kh is not None and any(e.order > kh.order for e in s.entries.kinds(Change, Buffered)[-20:])


def kh_is_due(s: Situation) -> bool:
    """KH is asked for where half of the tank's own may be spent, and again when what had read low was put right."""
    left, base = kh_left(s)
    own = max(base, s.tank.kh_dkh)
    kh = s.entries.latest("kh")
    if kh is not None and kh.value < (1 - WARN_SHARE) * own and raised_since_read(s):
        return True
    if kh is not None and s.now - kh.at < timedelta(days=3):
        return False
    return own > 0 and left < (1 - WARN_SHARE) * own


@dataclass(frozen=True)
class KhWanted:
    """KH for a cycle: what there is by the sums, and what it is to be brought to, dKH; why in words."""

    left: float
    goal: float
    because: str


def kh_for_the_cycle(s: Situation) -> KhWanted | None:
    """Alkalinity that the doses or the food to come will need and the water does not have, or that the bloom needs to
    carry who is to come, while no animals are in; None where there is enough, where nobody has read or set it, and
    where it was raised since it was read."""
    if s.living or not s.tank.filled or raised_since_read(s):
        return None
    if s.entries.latest("kh") is None and "kh_dkh" not in s.tank.typed:
        return None
    left, base = kh_left(s)
    ph = s.entries.latest("ph")
    doses = s.school.feeds_by == "dose" or any(r.kind == "clears_dose" for r in s.school.gate)
    need = DOSES_AHEAD * spent_by_dose_dkh(s, s.tank.target_mg_n_l * s.volume_l) if doses else 0.0
    acid = ph is not None and ph.value < PH_BLOOM_STOPS
    own = max(base, s.tank.kh_dkh)
    least = max(LEAST_DKH + need, min(CYCLE_DKH, SOFT_SHARE * own))
    raised, short = s.forecast.raised, left < least or (acid and left < CYCLE_DKH)
    slows = raised is not None and raised.then - raised.now >= WORTH_RAISING
    if not short and not slows:
        return None
    goal = max(own + need, CYCLE_DKH, LEAST_DKH + 2 * need)
    what = f"pH reads {ph.reading.typed}: the bloom hardly works" if acid and ph is not None else (
        f"the next {DOSES_AHEAD} doses spend {figure(need, 2)} of it" if doses else "what rots spends it"
    )  # fmt: skip
    if raised is not None and not short:
        what = (
            f"that slows the bloom: with the tank’s own {percent(raised.then)} of the forecasts stay under the limits "
            f"with those to come, as it is {percent(raised.now)}"
        )
    return KhWanted(left, goal, f"KH comes to about {figure(left, 2)}{NBSP}dKH and {what}")
