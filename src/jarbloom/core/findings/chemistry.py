"""pH, alkalinity and carbon dioxide: what has moved, what is spent, and what a rise of pH frees."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Iterable, Sequence
from datetime import timedelta
from itertools import pairwise
from statistics import median
from typing import Any

from jarbloom.core.bloom.parameters import PH_BLOOM_STOPS
from jarbloom.core.findings.facts import Facts, Value, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.kinds.buffered import Buffered
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.model.findings import Feeding, Severity
from jarbloom.core.model.kit import MG_PER_MG_N
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.units import NBSP, figure

KH_LOW, KH_SPENT = 2.0, 1.0  # dKH
KH_HIGH_CORALS = 12.5  # dKH (practice)
KH_CORALS = 6.0  # stony ones build with it (practice)
# mg/L as ion. Camargo et al. 2005: 10 mg N/L (44 as ion) can harm animals of fresh water over long times, 20 (89) may
# be borne by most of the sea. More than twice the first, less than the second (judgement)
NITRATE_FAR_ION = {"fresh": 100.0, "marine": 80.0}
STEP_OF_OLD_WATER = 30.0  # percent at a time, while nothing worse asks for more (judgement)
KH_FELL = 0.8  # of the tank's own: below this share it is being spent
OWN_SOFT_DAYS, OWN_SOFT_READINGS = 14, 3
KH_STEP, KH_STEP_DAYS = 2.5, 10.0
PH_MOVED = 0.5
PH_SWING = 0.6  # planted water swings by some tenths from dawn to evening
STEP_H = 30  # two pH readings this near make a step


@rule("kh_low")
def kh_low(facts: Facts) -> Iterable[Found]:
    kh = facts.last("kh", 24 * 45)
    if kh is None or kh.seen >= KH_LOW or _soft_by_design(facts, kh):
        return
    yield Found(f"KH reads {kh.typed}: below {figure(KH_LOW)} it is soon spent, and the pH falls.", kh.at, ids((kh,)))


@rule("kh_corals")
def kh_corals(facts: Facts) -> Iterable[Found]:
    kh = facts.last("kh", 24 * 45)
    if kh is not None and facts.corals and kh.seen < KH_CORALS:
        yield Found(f"KH reads {kh.typed}: corals live on it and want {figure(KH_CORALS)} or more.", kh.at, ids((kh,)))


@rule("kh_high")
def kh_high(facts: Facts) -> Iterable[Found]:
    kh = facts.last("kh", 24 * 45)
    if kh is not None and facts.corals and kh.seen >= KH_HIGH_CORALS:
        yield Found(
            f"KH reads {kh.typed}: from {figure(KH_HIGH_CORALS)} on coral tips burn, most in water poor in "
            "nutrients. Stop what raises it, and let it fall by itself.", kh.at, ids((kh,)),
        )  # fmt: skip


@rule("nitrate_far")
def nitrate_far(facts: Facts) -> Iterable[Found]:
    """By the last reading, thinned by the changes since. Where nobody lives it is the cycle's own, and goes before
    anybody comes."""
    last = facts.last("nitrate", 24 * 45, words=False)  # in words it is of no form yet
    if last is None:
        return
    changes = facts.log.kinds(Change)
    since = changes[bisect_right(changes, last.entry.order, key=lambda e: e.order) :]
    left = last.seen * math.prod(1 - min(1.0, e.body.litres / facts.volume) for e in since) * MG_PER_MG_N["NO3"]
    limit = NITRATE_FAR_ION["marine" if facts.tank.marine else "fresh"]
    if left >= limit and not facts.alive:
        yield Found(
            f"Nitrate reads {last.typed}, over {figure(limit)}{NBSP}mg/L as ion: newcomers from cleaner water suffer "
            "in it. Change enough of the water before they come.",
            last.at, ids((last,)), Severity.KNOW, acts=(), change_most=100.0, share=0.0,
        )  # fmt: skip
    elif left >= limit:
        yield Found(
            f"Nitrate reads {last.typed}: {figure(limit)}{NBSP}mg/L as ion and more wear on animals over weeks, and "
            "newcomers from cleaner water suffer at once. Bring it down by a quarter of the water at a time.",
            last.at, ids((last,)), change_most=None if facts.levels.over else STEP_OF_OLD_WATER,
        )  # fmt: skip


@rule("kh_spent")
def kh_spent(facts: Facts) -> Iterable[Found]:
    kh, ph = facts.last("kh", 24 * 45), facts.last("ph", 24 * 45)
    if kh is None or kh.seen > KH_SPENT:
        return
    acid = ph is not None and ph.seen < PH_BLOOM_STOPS
    if not acid and kh.seen > 0.5 and _soft_by_design(facts, kh):
        return
    if _soft_by_design(facts, kh) and not _waste(facts):
        return
    words = f"KH reads {kh.typed}" + (f" and pH {ph.typed}" if ph is not None else "")
    text = f"{words}: the KH is spent, and low pH stops the bacteria. Small changes, a slow rise."
    if not facts.alive:
        text = (
            f"{words}: the KH is spent, and low pH stops the bacteria. Without animals a large change brings it back."
        )
    if _waste(facts):
        text += " Ammonia is in the water too: NH3 rises ten-fold with each unit of pH."
    severity = Severity.ACT if facts.alive else Severity.WATCH
    limits: dict[str, Any] = {} if facts.alive else {"change_most": 100.0, "share": 0.0}
    if _waste(facts):
        limits["feeding"] = Feeding.NONE  # nothing takes up what food becomes
    yield Found(text, kh.at, ids(v for v in (kh, ph) if v), severity, **limits)


def _soft_by_design(facts: Facts, kh: Value) -> bool:
    """Its KH stands where it was set, or where it has been read often and long ago, and that is soft."""
    old = [v.seen for v in facts.values("kh", 24 * 120, words=False) if kh.at - v.at >= timedelta(days=OWN_SOFT_DAYS)]
    own = median(old) if len(old) >= OWN_SOFT_READINGS else facts.tank.kh_dkh
    return kh.seen >= KH_FELL * own - 0.26 and own <= KH_LOW + 0.5


def _waste(facts: Facts) -> bool:
    am = facts.last("ammonia", 24 * 7)
    return am is not None and am.low > 0


@rule("kh_step")
def kh_step(facts: Facts) -> Iterable[Found]:
    kh = facts.values("kh", 24 * (KH_STEP_DAYS + 3))
    if len(kh) == 1:
        step = kh[0].seen - facts.tank.kh_dkh
        if step >= KH_STEP and facts.said("double_dose", hours=48):
            told = f"KH {kh[0].typed} after too much of a dose, against this tank’s own {figure(facts.tank.kh_dkh, 2)}"
            yield _kh_step(told, step, kh, Severity.TEST if facts.corals else Severity.WATCH)
    given = facts.lately(24, Buffered)
    rise = sum(e.body.rise_meq_l(facts.volume) for e in given) / MEQ_PER_DKH
    if rise >= KH_STEP and facts.alive and not (kh and kh[-1].at > given[-1].at):
        yield Found(
            f"Bicarbonate of a day raises KH by {figure(rise, 2)}{NBSP}dKH, a KH step, and the pH with it: read both; "
            "the rest in small portions.",
            given[-1].at, ids(given), Severity.TEST if facts.corals else Severity.WATCH,
        )  # fmt: skip
    if len(kh) < 2:
        return
    a, b = kh[-2], kh[-1]
    if abs(b.seen - a.seen) < KH_STEP or b.at - a.at > timedelta(days=KH_STEP_DAYS):
        return
    if b.seen > a.seen and not facts.alive and not facts.corals:
        return  # a tank that cycles: nobody is unsettled by what its doses need
    severity = Severity.TEST if facts.corals or b.seen < a.seen else Severity.WATCH
    yield _kh_step(f"KH {a.typed} on {a.at:%-d %b} and {b.typed} now", abs(b.seen - a.seen), (a, b), severity)


def _kh_step(told: str, step: float, read: Sequence[Value], severity: Severity) -> Found:
    """`step` in dKH."""
    return Found(
        f"{told}, a KH step of {figure(step, 2)}{NBSP}dKH: stop dosing, repeat the test, no forced way back.",
        read[-1].at, ids(read), severity,
    )  # fmt: skip


@rule("ph_low_bloom")
def ph_low_bloom(facts: Facts) -> Iterable[Found]:
    ph = facts.last("ph", 24 * 14)
    if ph is None or ph.seen >= PH_BLOOM_STOPS or (facts.alive and not _waste(facts)):
        return
    if facts.alive and _soft_by_design_ph(facts, ph) and not _waste(facts):
        return
    yield Found(
        f"pH reads {ph.typed}: below {figure(PH_BLOOM_STOPS)} low pH stops the bacteria. Alkalinity first; no dose "
        "until it is back.", ph.at, ids((ph,)),
    )  # fmt: skip


def _soft_by_design_ph(facts: Facts, ph: Value) -> bool:
    own = facts.own("ph", ph.at) or facts.tank.ph
    return abs(ph.seen - own) < PH_MOVED


@rule("ph_off")
def ph_off(facts: Facts) -> Iterable[Found]:
    ph = facts.last("ph", 72)
    if ph is None:
        return
    own = facts.own("ph", ph.at)
    own = facts.tank.ph if own is None else own
    low, high = facts.ph_range
    moved = ph.seen - own
    outside = facts.alive and (ph.seen < low - PH_MOVED or ph.seen > high + PH_MOVED) and abs(moved) >= 0.25
    if abs(moved) < PH_SWING - 0.01 and not outside:
        return
    if not facts.alive and abs(moved) < 1.0:
        return
    what = (
        f"away from this tank’s own {figure(own)}" if abs(moved) >= PH_SWING - 0.01 else "outside the residents’ range"
    )
    severity = Severity.TEST if facts.alive else Severity.WATCH
    yield Found(f"pH reads {ph.typed}, {what}: repeat it, and find out what moved it.", ph.at, ids((ph,)), severity)


@rule("nh3_freed")
def nh3_freed(facts: Facts) -> Iterable[Found]:
    """The pH rose within a day, and ammonia was read, or signs say so."""
    if not facts.alive:
        return
    risen = _rise(facts)
    said, given = facts.said("buffer", hours=24), facts.lately(24, Buffered)
    raised = max([h.at for h in said] + [e.at for e in given], default=None)
    if risen is None and raised is None:
        return
    am = [v for v in facts.values("ammonia", 48) if v.seen >= 0.4]
    if not am:
        return
    words = f"pH {risen[0].typed} to {risen[1].typed} within a day" if risen else "The pH was raised, by the log"
    at = risen[1].at if risen else raised or facts.now
    yield Found(
        f"{words}, with ammonia {am[-1].typed} in the water: NH3 rises about ten-fold with each unit of pH, whatever "
        "the total does.", at, (*ids(am[-1:]), *ids(said), *ids(given), *(ids(risen) if risen else ())),
    )  # fmt: skip


def _rise(facts: Facts) -> tuple[Value, Value] | None:
    ph = facts.values("ph", 48)
    for a, b in pairwise(ph):
        if b.seen - a.seen >= PH_MOVED and b.at - a.at <= timedelta(hours=STEP_H):
            return a, b
    return None


@rule("bag_ammonia")
def bag_ammonia(facts: Facts) -> Iterable[Found]:
    """A bag named with a slow drip, or with its ammonia, and newcomers of the last day."""
    came = facts.came(26)
    dripped = [h for h in facts.said("dripped", hours=26) if "bag" in h.text.lower()]
    if not came or not dripped:
        return
    worse = facts.said("bottom", "pale", "list", "gasp", "breath", "redgill", "dart", hours=24)
    yield Found(
        "A slow drip raised the pH of a bag with ammonia in it: NH3 rises ten-fold and more meanwhile, and hurt gills "
        "show within hours. Air, dim light, no second move.",
        dripped[-1].at, (*ids(dripped), *ids(worse)), Severity.ACT if worse else Severity.WATCH,
    )  # fmt: skip


@rule("co2")
def co2(facts: Facts) -> Iterable[Found]:
    said = facts.said("gas", hours=24)
    if not said:
        return
    yield Found("CO2 ran on, by your words: it stops breathing although oxygen is there. Gas off, air on.",
                said[-1].at, ids(said))  # fmt: skip
