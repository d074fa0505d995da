"""What a change of water brought along: very much at once, or water unlike the tank's own."""

from __future__ import annotations

from collections.abc import Iterable

from jarbloom.core.findings.chemistry import KH_STEP, PH_MOVED
from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.model.findings import Severity
from jarbloom.core.model.kit import MG_PER_MG_N
from jarbloom.core.water.carbonate import constants, mixed_ph
from jarbloom.core.water.dilution import after_change
from jarbloom.units import NBSP, figure, percent

NEARLY_ALL = 0.7  # of the water in one go (judgement)
WATCHED_H = 48
NITRATE_ROSE_ION = 20.0  # mg/L as ion that a change put in (judgement)


@rule("large_change")
def large_change(facts: Facts) -> Iterable[Found]:
    large = [e for e in facts.lately(WATCHED_H, Change) if (e.body.fraction or 0.0) >= NEARLY_ALL]
    if large and facts.alive:
        yield Found(
            f"{percent(large[-1].body.fraction or 0.0)} of the water was changed at once: temperature, pH and "
            "salts move with it. Look at the animals again tonight and tomorrow, and read temperature and pH.",
            large[-1].at, ids(large),
        )  # fmt: skip


@rule("unlike_water")
def unlike_water(facts: Facts) -> Iterable[Found]:
    """By what was told of the new water, mixed into what was last read here before."""
    if not facts.alive:
        return
    tank = facts.tank
    for e in reversed(facts.lately(WATCHED_H, Change)):
        f, body = e.body.fraction or 0.0, e.body
        before = {
            q: next((v.seen for v in reversed(facts.values(q)) if v.at < e.at), None) for q in ("kh", "ph", "nitrate")
        }
        kh, ph = before["kh"] or tank.kh_dkh, before["ph"] or tank.ph
        told = []
        new_kh = body.source_kh if body.source_kh is not None else tank.refill.kh_dkh
        if body.source_kh is not None and abs(step := after_change(kh, f, body.source_kh) - kh) >= KH_STEP:
            told.append(f"KH moves by {figure(abs(step), 2)}{NBSP}dKH")
        if body.source_ph is not None:
            mixed = mixed_ph(ph, kh, body.source_ph, new_kh, f, constants(facts.water_c, tank.salinity_g_kg))
            if abs(mixed - ph) >= PH_MOVED:
                told.append(f"the pH by about {figure(abs(mixed - ph), 2)}")
        if body.source_nitrate is not None:
            rise = f * (body.source_nitrate - (before["nitrate"] or 0.0)) * MG_PER_MG_N["NO3"]
            if rise >= NITRATE_ROSE_ION:
                told.append(f"nitrate rises by {figure(rise, 2)}{NBSP}mg/L as ion")
        if told:
            yield Found(
                f"The new water was unlike the tank's own: {', '.join(told)}. Read them, and bring such water in by "
                "small steps.", e.at, ids((e,)), Severity.TEST if facts.corals else None,
            )  # fmt: skip
            return
