"""What the courses of data/courses.toml leave open: hours, degrees, grams and litres for this tank, in words.

Each clock is a function of the facts that gives the words for the places in the steps of its course. Rates are those of
docs/upsets.md, next hours and days.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from datetime import datetime, timedelta

from jarbloom.core.animals.bioload import BODY_N, mass_g
from jarbloom.core.animals.growth import length_on
from jarbloom.core.bloom.events import power_loss
from jarbloom.core.findings.facts import Facts
from jarbloom.core.findings.oxygen import oxygen_at_dawn
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.upset.levels import USUAL
from jarbloom.core.vessel.heat import areas, heat_capacity_j_k, loss_w
from jarbloom.core.water.dilution import KH_RISE_DKH
from jarbloom.core.water.mixing import salt_g
from jarbloom.core.water.oxygen import CRITICAL_MG_L, CRITICAL_TENDER_MG_L, hours_left
from jarbloom.units import NBSP, figure

COOL_C_H, COOL_C_DAY = 1.0, 4.0
FAN_C = (2.0, 4.0)  # what evaporation takes off
WARM_C_H, WARM_TENDER_C_H, WARM_C_DAY = 1.0, 0.5, 4.0
SALT_A_DAY, SALT_UP_FISH_A_DAY = 1.0, 2.0  # g/kg; fish alone bear more upwards (data/findings.toml, salinity_low)
BUCKET_L, FISH_G_PER_L = 10.0, 2.0  # with air, for hours
PROMISED = 0.5  # of the computed oxygen time: the surface of a still tank is not mixed down
FIRST_LOSS_H = 8.0


def _hours(hours: float) -> str:
    if hours < 1:
        return f"{max(5, 5 * round(hours * 12)):.0f}{NBSP}minutes"
    return f"{figure(hours, 2)}{NBSP}hours" if hours < 48 else f"{hours / 24:.0f}{NBSP}days"


def oxygen_hours(facts: Facts, surface: str = "still") -> float:
    """Hours that the oxygen lasts with the machines off, by load, volume and surface: computed, not promised."""
    tender = facts.corals or facts.levels.limits.nh3 < USUAL.nh3
    return hours_left(
        facts.volume, areas(facts.tank).surface, facts.upkeep.moving_g, facts.water_c, facts.levels.salinity_g_kg,
        surface=surface, critical_mg_l=CRITICAL_TENDER_MG_L if tender else CRITICAL_MG_L,
    )  # fmt: skip


def oxygen(facts: Facts) -> Mapping[str, str]:
    """How long they have; and how fast the tank cools without its heater."""
    still, moved = oxygen_hours(facts), oxygen_hours(facts, "rippled")
    began = max((h.at for h in facts.said("power_out", hours=12)), default=facts.now)
    if math.isinf(still):
        clock = "By its sums the open surface alone brings enough oxygen for those who live here; look all the same."
    else:
        last = began + timedelta(hours=PROMISED * still)
        clock = (
            f"Still water: by its sums about {_hours(still)} to where they suffer, count on half, until "
            f"{last:%H:%M}{'' if last.date() == facts.now.date() else last.strftime(' on %A')}."
        )
        clock += (
            " With the surface moved there is no such end." if math.isinf(moved)
            else f" With the surface moved about {_hours(PROMISED * moved)}."
        )  # fmt: skip
    drop = cooling_c_h(facts)
    heat = f"Without its heater it loses about {facts.units.temp_step(drop)} an hour." if drop > 0.05 else ""
    return {"clock": clock, "heat": heat}


def cooling_c_h(facts: Facts) -> float:
    """deg C an hour that the tank loses to its room unheated, at first."""
    return 3600 * loss_w(facts.tank, facts.water_c) / heat_capacity_j_k(facts.tank)


def night(facts: Facts) -> Mapping[str, str]:
    low, high = (figure(oxygen_at_dawn(facts, surface), 2) for surface in (facts.tank.surface, "broken"))
    return {"night": f"By its sums about {low}{NBSP}mg/L at dawn as it is and {high} with a broken surface, good to "
                     "one or two."}  # fmt: skip


def stood(facts: Facts) -> Mapping[str, str]:
    cuts = facts.lately(168, PowerCut)
    if not cuts:
        loss = power_loss("closed", FIRST_LOSS_H), power_loss("closed", 24.0)
        return {"loss": f"By the model a shut filter loses about {100 * loss[0]:.0f} % in eight hours and "
                        f"{100 * loss[1]:.0f} % in a day, widely spread."}  # fmt: skip
    cut = cuts[-1].body
    lost = 100 * power_loss(cut.filter_was, cut.hours)
    return {"loss": f"After {figure(cut.hours)}{NBSP}h the model takes about {max(lost, 1):.0f} % of the bloom as "
                    "lost, widely spread: the tests tell."}  # fmt: skip


def _by_day(now: datetime, hours: float) -> str:
    at = now + timedelta(hours=hours)
    return f"{at:%H:%M}" if at.date() == now.date() else f"{at:%A %H:%M}"


def cooling(facts: Facts) -> Mapping[str, str]:
    warm, (low, high) = facts.water_c, facts.temp_range
    aim = min(max(facts.tank.temp_c, min(low, high)), max(low, high))
    rise, t = warm - aim, facts.units.temp
    per_hour, step = facts.units.temp_step(COOL_C_H), facts.units.temp_step
    fan = f"{step(FAN_C[0])} to {step(FAN_C[1])}"
    if rise <= 0.5:
        return {"cooling": f"Hold {t(aim)}.", "per_hour": per_hour, "fan": fan}
    first = min(rise, COOL_C_DAY)
    words = f"From {t(warm)} to {t(warm - first)} not before {_by_day(facts.now, first / COOL_C_H)}"
    if rise > COOL_C_DAY:
        words += f", to {t(aim)} on {facts.now + timedelta(days=math.ceil(rise / COOL_C_DAY) - 1):%A}"
    return {"cooling": f"{words}: {facts.units.temp_step(COOL_C_DAY)} a day at most.", "per_hour": per_hour,
            "fan": fan}  # fmt: skip


def warming(facts: Facts) -> Mapping[str, str]:
    cold, t = facts.water_c, facts.units.temp
    gap = facts.tank.temp_c - cold
    tender = any(k.body == "eel" for k in facts.kinds) or facts.levels.limits.nh3 < USUAL.nh3 or facts.said("fry")
    rate = WARM_TENDER_C_H if tender else WARM_C_H
    drop = cooling_c_h(facts)
    falls = f"Unheated it loses about {facts.units.temp_step(drop)} an hour." if drop > 0.05 else ""
    if gap <= 0.5:
        return {"warming": f"Hold {t(facts.tank.temp_c)}.", "falls": falls}
    first = min(gap, WARM_C_DAY)
    words = f"From {t(cold)} to {t(cold + first)} not before {_by_day(facts.now, first / rate)}"
    if gap > WARM_C_DAY:
        words += f", to {t(facts.tank.temp_c)} on {facts.now + timedelta(days=math.ceil(gap / WARM_C_DAY) - 1):%A}"
    return {"warming": f"{words}, {facts.units.temp_step(rate)} an hour at most.", "falls": falls}


def alkalinity(facts: Facts) -> Mapping[str, str]:
    """How long the way back to the tank's own KH takes; the amount of a day is the job's."""
    now, aim = facts.levels.kh_dkh, facts.tank.kh_dkh
    if aim - now < 0.5:
        return {"kh": "KH is near the tank's own: hold it by the usual changes."}
    days = math.ceil((aim - now) / KH_RISE_DKH)
    return {"kh": f"KH {figure(now, 2)} back to {figure(aim, 2)} takes {days} days at {figure(KH_RISE_DKH)} dKH a day "
                  "at most. Today's step, where one is safe, stands among the jobs with its amount."}  # fmt: skip


def salinity(facts: Facts) -> Mapping[str, str]:
    """Steps to the tank's own salinity by the day."""
    last = facts.last("salinity")
    aim = facts.tank.salinity_g_kg
    words = {"aim": f"{figure(aim, 3)}{NBSP}g/kg", "salt": ""}
    if last is None or abs(last.seen - aim) < 0.5:
        return words
    gap, volume = last.seen - aim, facts.volume
    step = SALT_UP_FISH_A_DAY if gap < 0 and facts.fish and not facts.inverts else SALT_A_DAY
    days = math.ceil(abs(gap) / step)
    if gap > 0:
        litres = volume * step / last.seen
        return words | {"salt": f"{figure(last.seen, 3)} is {figure(gap, 2)} too much: {days} days, each day "
                                f"{facts.units.volume(litres)} out and as much fresh water in, slowly."}  # fmt: skip
    grams = salt_g(volume, last.seen + min(step, -gap), facts.tank.salt_factor, facts.tank.temp_c, last.seen)
    return words | {"salt": f"{figure(last.seen, 3)} is {figure(-gap, 2)} too little: {days} days, each day {grams:.0f}"
                            f"{NBSP}g of salt dissolved in water that was taken out, poured back slowly."}  # fmt: skip


def leak(facts: Facts) -> Mapping[str, str]:
    grams = facts.upkeep.moving_g
    n = max(1, math.ceil(grams / FISH_G_PER_L / BUCKET_L))
    return {"buckets": f"For the {facts.heads} animals here at least {n} bucket{'s' if n > 1 else ''} of "
                       f"{facts.units.volume(BUCKET_L)} of tank water, each with air and a cover, warm and dark; the "
                       "quarrelsome apart, no food."}  # fmt: skip


def body(facts: Facts) -> Mapping[str, str]:
    """What one body not found brings."""
    today, species = facts.now.date(), facts.reference.species
    masses = [mass_g(k, length_on(a, k, today)) for a in facts.living
              for k in (species.get(a.species, species["unknown"]),)]  # fmt: skip
    if not masses:
        return {"body": ""}
    mg = 1000 * BODY_N * max(masses)
    return {"body": f"The largest here would bring {figure(mg, 2)}{NBSP}mg of nitrogen, {figure(mg / facts.volume, 2)}"
                    f"{NBSP}mg/L, within days."}  # fmt: skip


CLOCKS: Mapping[str, Callable[[Facts], Mapping[str, str]]] = {
    "oxygen": oxygen, "night": night, "stood": stood, "cooling": cooling, "warming": warming, "alkalinity": alkalinity,
    "salinity": salinity, "leak": leak, "body": body,
}  # fmt: skip
