"""The fill run: from the empty glass to water that something alive may go into, with amounts and waiting times."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from jarbloom.core.journal.kinds.step import SetUpStep
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.heat import heat_capacity_j_k, loss_w
from jarbloom.core.vessel.shapes import has_shape
from jarbloom.core.vessel.volume import (
    DECOR_NAMES,
    SUBSTRATE_KG_L,
    decor_kg,
    floor_load_kg_m2,
    net_l,
    vessel,
    weight_kg,
)
from jarbloom.core.water.mixing import salt_g
from jarbloom.core.water.salinity import specific_gravity
from jarbloom.units import NBSP, Units, figure

LEAK_H, SETTLE_H, STABLE_H = 1.0, 24.0, 24.0  # practice
SLOW_HEAT_H = 48.0
WRONG_TEMP_C = 1.0  # how far from the target the temperature may stand after its day


@dataclass(frozen=True)
class FillStep:
    """One step. `wait_h` is how long it takes after it was begun until the next may follow; `asks` names what the
    keeper has to fill in: litres, temp, salinity, or nothing."""

    key: str
    title: str
    words: str
    amount: str = ""
    wait_h: float = 0.0
    caution: str = ""
    asks: str = ""


def steps(tank: Tank, units: Units) -> tuple[FillStep, ...]:
    """The steps of this tank in their order; salt steps only where salt is wanted."""
    found = [_stand(tank, units), _rinse(tank, units), _place(tank, units), _leak(), _fill(tank, units)]
    if tank.source.chlorine != "none":
        found.append(_condition(tank, units))
    found.append(
        FillStep(
            "start",
            "Start filter, flow and heater",
            "All under water first; a drip loop on every cable; then the plugs. Look for drips at every hose.",
            caution="mains",
        )
    )
    if tank.salinity_g_kg > 0:
        found += [_salt(tank, units), _settle()]
    found.append(_heat(tank, units))
    if tank.salinity_g_kg > 0:
        found.append(_confirm(tank, units))
    found.append(
        FillStep(
            "stable",
            "Temperature stable for a day",
            f"Read it a day after the heating step: within {units.temp_step(WRONG_TEMP_C)} of "
            f"{units.temp(tank.temp_c)}, or the heater needs another setting.",
            units.temp(tank.temp_c),
            asks="temp",
        )
    )
    return tuple(found)


def _stand(tank: Tank, units: Units) -> FillStep:
    load = floor_load_kg_m2(tank)
    amount = f"{units.text(round(weight_kg(tank)), 'weight')} filled" + (f", {units.pressure(load)}" if load else "")
    return FillStep(
        "stand",
        "Stand, level and cables",
        "The stand carries the whole base and stands level both ways; sockets sit above the loops of their cables; a "
        "catch tray lies under the hoses; everybody knows where the shut-off is.",
        amount,
        caution="floor",
    )


def _rinse(tank: Tank, units: Units) -> FillStep:
    amount = ""
    if has_shape(tank) and tank.substrate != "none":
        bed = vessel(tank).bed_l
        weight = units.text(round(bed * SUBSTRATE_KG_L[tank.substrate]), "weight")
        amount = f"{units.volume(bed)} of {tank.substrate}, about {weight}"
    words = "Tap water, no soap, until it runs clear. Plant soil is not rinsed."
    return FillStep("rinse", "Rinse glass, substrate and stones", words, amount)


def _place(tank: Tank, units: Units) -> FillStep:
    listed = ", ".join(f"{DECOR_NAMES[d.kind]} {units.text(decor_kg(d), 'weight', 2)}" for d in tank.decor)
    return FillStep(
        "place",
        "Place stones, wood and substrate",
        "Heavy stones stand on the bottom glass, not on sand that an animal can dig away. Wood is soaked or weighted.",
        listed,
        caution="lifting",
    )


def _leak() -> FillStep:
    return FillStep(
        "leak",
        "Fill a third and wait an hour",
        "Run a dry finger along every seam and under the stand. A drip means: drain, dry, mend.",
        wait_h=LEAK_H,
        caution="leaks",
    )


def _fill(tank: Tank, units: Units) -> FillStep:
    return FillStep(
        "fill",
        "Fill to the water line and count the litres",
        "Over a plate or a bag, so that the bed stays where it is. The counted litres replace the geometry.",
        f"about {units.volume(net_l(tank))}",
        asks="litres",
    )


def _condition(tank: Tank, units: Units) -> FillStep:
    left = {
        "chloramine": "Chloramine leaves ammonia behind when it is broken: test ammonia after it.",
        "chlorine": "Chlorine harms gills and the bloom.",
        "unknown": "It is not known what the tap holds: treat it as chloramine.",
    }[tank.source.chlorine]
    amount = "by its label, for the whole tank"
    if tank.conditioner_ml_per_100l:
        dose = tank.conditioner_ml_per_100l * net_l(tank) / 100
        amount = f"{figure(dose, 2)}{NBSP}mL for {units.volume(net_l(tank))}"
    return FillStep("condition", "Dose the conditioner", left, amount, caution="detoxifier")


def _salt(tank: Tank, units: Units) -> FillStep:
    grams = salt_g(net_l(tank), tank.salinity_g_kg, tank.salt_factor, tank.temp_c)
    text = units.mass(grams)
    return FillStep(
        "salt",
        "Mix in the salt",
        "In portions, with the pumps running, and only while nothing alive is in. Hold some back for the correction.",
        f"{text} for {figure(tank.salinity_g_kg)}{NBSP}g/kg, {figure(tank.salt_factor)} g a gram dissolved",
    )


def _settle() -> FillStep:
    return FillStep(
        "settle",
        "Let it dissolve and settle for a day",
        "Milky salt water clears by itself. Salinity read too early is wrong.",
        wait_h=SETTLE_H,
    )


def heating_h(tank: Tank, from_c: float) -> float:
    """Hours from a filling temperature to the target with all heaters, the loss taken at the middle."""
    rise = tank.temp_c - from_c
    spare = tank.heater_w - loss_w(tank, tank.temp_c - rise / 3)
    if rise <= 0:
        return 0.0
    return heat_capacity_j_k(tank) * rise / spare / 3600 if spare > 0 else float("inf")


def _heat(tank: Tank, units: Units) -> FillStep:
    hours = heating_h(tank, min(tank.source.cold_c, tank.temp_c))
    if hours == 0:
        amount = units.temp(tank.temp_c)
    elif hours > SLOW_HEAT_H:
        amount = f"{units.temp(tank.temp_c)}; with {tank.heater_w:.0f}{NBSP}W that takes more than two days"
    else:
        cold = units.temp(tank.source.cold_c)
        with_w = f"with {tank.heater_w:.0f}{NBSP}W"
        amount = f"{units.temp(tank.temp_c)}, about {figure(hours, 2)}{NBSP}h from {cold} {with_w}"
    return FillStep(
        "heat",
        "Bring it to temperature",
        "Warm water from a bucket is quicker. Set the heater, then read a second thermometer.",
        amount,
        wait_h=STABLE_H,
        caution="mains",
    )


def _confirm(tank: Tank, units: Units) -> FillStep:
    return FillStep(
        "confirm",
        "Confirm the salinity on two instruments",
        "Both calibrated lately, both in the same water. When they disagree the page says which to doubt.",
        f"{figure(tank.salinity_g_kg)}{NBSP}g/kg, SG {specific_gravity(tank.salinity_g_kg):.4f} at 25{NBSP}°C",
        asks="salinity",
    )


@dataclass(frozen=True)
class FillStanding:
    """A step as it stands: done when, or open from when (None: an earlier one comes first)."""

    step: FillStep
    done_at: datetime | None
    open_from: datetime | None

    def waiting(self, now: datetime) -> bool:
        """The step before still takes its time."""
        return self.done_at is None and self.open_from is not None and self.open_from > now


def standing(tank: Tank, entries: Sequence[Entry], units: Units, now: datetime) -> tuple[FillStanding, ...]:
    """Each step with its state; a step opens when all before are done and the last one's time is over."""
    done = {e.body.step: e.at for e in Log.of(entries).kinds(SetUpStep)}
    found: list[FillStanding] = []
    ready: datetime | None = now  # None behind the first step that is not done
    for step in steps(tank, units):
        at = done.get(step.key)
        found.append(FillStanding(step, at, ready if at is None else None))
        if at is None:
            ready = None
        elif ready is not None:
            # Real hours; a later step that was done says that the waiting before it was over.
            ready = (at.astimezone(UTC) + timedelta(hours=step.wait_h)).astimezone(now.tzinfo)
    return tuple(found)


def begun(entries: Sequence[Entry]) -> bool:
    return bool(Log.of(entries).kinds(SetUpStep))
