"""Changes of water and what raises KH: the corrective ones, those that findings ask for, and the usual one."""

from __future__ import annotations

from datetime import datetime, timedelta

from jarbloom.core.advice.alkalinity import kh_for_the_cycle, kh_left
from jarbloom.core.advice.said import Job, clock_words
from jarbloom.core.advice.situation import RISING, Situation
from jarbloom.core.journal.kinds.buffered import Buffered
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.log import latest
from jarbloom.core.model.kit import MG_PER_MG_N
from jarbloom.core.stocking.budget import NITRATE_LIMIT_ION
from jarbloom.core.upset.response import eases
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.core.water.dilution import KH_RISE_DKH, USUAL_CHANGE
from jarbloom.core.water.mixing import BICARBONATE_MG_MEQ
from jarbloom.units import NBSP, figure

FISHLESS_NITRATE_ION = 100.0  # a fishless cycle stores it up; judgement
KH_CHANGE_SHARE = 0.7  # of what was there: below it the routine change is due (judgement)


def change_jobs(s: Situation) -> list[Job]:
    """Corrective changes where something is over its limit; else the one that findings ask for by themselves; else the
    usual one. Never more than the findings allow, and none that would free more ammonia than it takes out."""
    response = s.response
    if response is not None:
        return _corrective(s)
    if s.findings.ask_change_only_for(RISING):
        return []  # solved on the members, and waiting for the repeat of a doubted reading
    share = s.findings.share if s.living else 0.0
    if share:
        if not eases(s.tank, s.levels, share):
            return []
        worst = next(f for f in s.findings if f.share)
        litres = _carried(share * s.volume_l)
        return [
            Job(
                "water_change", f"Change {s.units.volume(litres)}", f"{worst.row.title}. Matched in temperature and "
                "salt, conditioned; test before and after.", s.now, "now", True, litres, "L", f"wc {litres:.1f} l",
                "safety", "siphon",
            )
        ]  # fmt: skip
    if s.acting or s.findings.change_most < USUAL_CHANGE:
        return []
    return _usual(s)


def _carried(litres: float) -> float:
    return float(round(litres)) if litres >= 10 else round(litres, 1)


def _corrective(s: Situation) -> list[Job]:
    response, found = s.response, []
    assert response is not None
    assumed = "" if s.tank.source.name or "source_ph" in s.tank.typed else (
        f" The tap’s pH {figure(s.tank.source.ph)} and KH {figure(s.tank.source.kh_dkh)} are as set: test them first."
    )  # fmt: skip
    for k, one in enumerate(response.changes[:3], 1):
        why = (
            f"Brings free ammonia from {figure(one.nh3_before, 2)} to about {figure(one.nh3_after.seen, 2)} "
            f"({figure(one.nh3_after.low, 2)} to {figure(one.nh3_after.high, 2)}), nitrite from "
            f"{figure(one.no2_before, 2)} to {figure(one.no2_after, 2)}{NBSP}mg/L.{assumed}"
            if k == 1 else "The next step, worked out afresh after every reading."
        )  # fmt: skip
        now = one.at <= s.now
        found.append(
            Job(
                "water_change", f"Change {s.units.volume(one.litres)}", why, one.at,
                "now" if now else clock_words(one.at, s.now),
                now and k == 1, one.litres, "L", f"wc {one.litres:.1f} l" if k == 1 else "", "safety",
                "siphon" if k == 1 else "", "" if k == 1 else str(k),
            )
        )  # fmt: skip
    return found


def _usual(s: Situation) -> list[Job]:
    """The usual change: for nitrate, for the life on rock, by the school's rhythm, or for alkalinity that is spent. The
    first of them that holds."""
    na = latest(s.entries, "nitrate")
    limit = NITRATE_LIMIT_ION[s.tank.planted] if s.living else FISHLESS_NITRATE_ION
    if na is not None and na.value * MG_PER_MG_N["NO3"] > limit and not changed_since(s, na.at):
        return [
            usual_change(s, USUAL_CHANGE, f"Nitrate reads {na.reading.typed}; {figure(limit)} as ion is the aim.", "")
        ]
    extreme, am = s.school.change_over_mg_n_l, latest(s.entries, "ammonia")
    if extreme and not s.living and am is not None and am.value >= extreme and not changed_since(s, am.at):
        share = s.reference.schools.corrective[s.tank.corrective].max_fraction
        words = f"Ammonia reads {am.reading.typed}: above {figure(extreme)} the life on the rock suffers too."
        return [usual_change(s, share, words, "today")]
    routine = s.school.change_every_days
    if s.living and routine:
        last = max((e.at for e in s.entries.kinds(Change)[-1:]), default=None)
        if last is None or s.now - last >= timedelta(days=routine):
            return [usual_change(s, s.school.change_share, f"The rhythm of {s.school.name}.", "today")]
    if s.living and s.findings.has("kh_low", "kh_corals") and not s.findings.forbidden & {"kh_up"}:
        return _raise_kh(s)
    if not s.living:
        return _kh_for_cycle(s)
    left, base = kh_left(s)
    read = s.entries.latest("kh")  # without a reading, or a log of changes, the sums say too little for a change
    brings = s.tank.refill.kh_dkh > left + 0.5
    own = max(base, s.tank.kh_dkh)  # a low reading is no new measure of what there should be
    if read is not None and own > 1 and left < KH_CHANGE_SHARE * own and brings:
        share = USUAL_CHANGE
        rises = share * (s.tank.refill.kh_dkh - left)
        words = (
            f"By doses, food and animals KH has come from {figure(base, 2)} to about {figure(left, 2)}{NBSP}dKH; this "
            f"brings back about {figure(rises, 2)}."
        )
        return [usual_change(s, share, words, "this week")]
    return []


def _kh_for_cycle(s: Situation) -> list[Job]:
    """KH that the doses to come will need: by a change where the water at hand brings it, else by bicarbonate. Without
    animals nothing stands against a large step."""
    wanted = kh_for_the_cycle(s)
    if wanted is None or (s.next_gate is not None and s.next_gate.passed):
        return []  # the change before the batch brings it, and no dose spends it any more
    tap, most = s.tank.refill.kh_dkh, s.reference.schools.corrective[s.tank.corrective].max_fraction
    share = (wanted.goal - wanted.left) / (tap - wanted.left) if tap > wanted.goal else 1.0
    if share <= most:
        words = f"{wanted.because}; the new water has {figure(tap)}: this brings it to {figure(wanted.goal, 2)}."
        return [usual_change(s, share, words, "today")]
    rise = wanted.goal - wanted.left
    return [_buffer(s, rise, f"{wanted.because}. ", "Read KH and pH at the next test.")]


def _buffer(s: Situation, rise_dkh: float, why: str, then: str) -> Job:
    grams = rise_dkh * MEQ_PER_DKH * s.volume_l * BICARBONATE_MG_MEQ / 1000
    said = figure(grams, 2)
    return Job(
        "buffer", f"Raise KH by {figure(rise_dkh, 2)}{NBSP}dKH",
        f"{why}{said}{NBSP}g of sodium bicarbonate, dissolved first, bring it. {then}", s.now, "today", amount=grams,
        unit="g", shorthand=f"buffer {said} g",
    )  # fmt: skip


def _raise_kh(s: Situation) -> list[Job]:
    """KH that reads low, back by at most 1 dKH: by the water at hand where it is harder, else by a buffer."""
    kh = latest(s.entries, "kh")
    assert kh is not None
    tap = s.tank.refill.kh_dkh
    if tap > kh.value + KH_RISE_DKH:
        share = min(USUAL_CHANGE, KH_RISE_DKH / (tap - kh.value))
        rises = figure(share * (tap - kh.value), 2)
        words = f"KH reads {kh.reading.typed}; the new water has {figure(tap)}: this brings {rises}{NBSP}dKH back."
        return [usual_change(s, share, words, "today")]
    if s.levels.tan is not None and s.levels.tan.low > 0:
        return []  # a buffer would free what ammonia there is
    if any(e.order > kh.order for e in s.entries.kinds(Buffered)[-5:]):
        return []  # read it first
    why = f"KH reads {kh.reading.typed} and the new water has no more. "
    return [_buffer(s, KH_RISE_DKH, why, "Once a day at most, and read KH and pH after.")]


def changed_since(s: Situation, since: datetime | None) -> bool:
    """Whether the last change came after a moment; None: whether there is one at all."""
    return any(since is None or e.at > since for e in s.entries.kinds(Change)[-1:])


def usual_change(s: Situation, share: float, why: str, due: str) -> Job:
    """A change that nothing presses; `due` in words, this week where none is said."""
    litres = share * s.volume_l
    return Job(
        "water_change",
        f"Change {s.units.volume(litres)}",
        why,
        s.now,
        due or "this week",
        amount=litres,
        unit="L",
        shorthand=f"wc {litres:.1f} l",
        caution="siphon",
    )
