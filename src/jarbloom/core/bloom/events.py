"""What single happenings do to the colony: cleaning, drought, salt and bottles. Wide on purpose: judgement."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from jarbloom.core.journal.kinds.bacteria import Bacteria


@dataclass(frozen=True)
class Loss:
    """Share of the colony lost, on the logit scale: mean and sd, for all of the media."""

    mean: float
    sd: float


@dataclass(frozen=True)
class Seed:
    """What a culture brings if it lives: P(dead), medians for A and B (mg N/L/day), sd of ln."""

    dead: float
    a: float
    b: float
    sd: float


LOSS: Mapping[str, Loss] = {
    "tap": Loss(0.5, 1.3),
    "tank_water": Loss(-2.5, 1.3),
    "replaced": Loss(2.2, 0.8),
    "dried": Loss(2.5, 0.8),
    "stirred": Loss(-2.8, 0.8),
    "closed": Loss(0.0, 0.8),  # shifted by the hours, see power_shift
    "open": Loss(0.0, 0.8),
    "salt": Loss(-3.0, 0.8),  # shifted by the jump, see salt_shift
}
SEEDING: Mapping[str, Seed] = {
    "bottle": Seed(0.31, 0.35, 0.25, 1.6),
    "bottle_cool": Seed(0.12, 0.35, 0.25, 1.4),
    "bottle_warm": Seed(0.70, 0.35, 0.25, 1.6),
    "bottle_frozen": Seed(0.85, 0.35, 0.25, 1.6),
    "borrowed": Seed(0.0, 2.7, 1.8, 1.0),
    "rock": Seed(0.0, 0.9, 0.6, 1.0),  # for USUAL_ROCK_KG_L of rock that was kept wet
}
USUAL_ROCK_KG_L = 0.1  # live rock for a litre of tank that the die-off prior is told for; judgement
ROCK_DIES = {"fresh": 0.3, "shipped": 1.0, "long": 3.0}  # of the die-off prior, by how the rock came; judgement
ROCK_SEEDS = {"fresh": 1.0, "shipped": 0.6, "long": 0.2}  # of the seed, likewise
STIRRED_MG_N_L = 0.3  # particulate N that a wholly stirred bed sets free; judgement
STILL = 0.1  # rate of a colony without flow, of its usual; judgement
SALT_NOTICED_G_KG = 2.0  # a smaller jump of salinity within a day costs nothing


# Something that the log does not tell: a body, a meal, a rinse. On days before the moment asked; what rots of it is
# next to nothing in the middle and some mg N/L in the far tail, and the share of the colony that it cost too
UNLOGGED_DAYS_AGO = (0.4, 1.0, 2.5, 4.5, 7.0, 10.0)
UNLOGGED_MG_N_L, UNLOGGED_SD = 0.03, 2.2
UNLOGGED_LOSS = Loss(-4.5, 1.8)
# Where animals live, as much may lie somewhere at any time without a reading that asks for it, though rarely: in one of
# thirty tanks more than 1 mg N/L within these days (judgement)
HIDDEN_MG_N_L, HIDDEN_SD = 0.001, 2.7

# A log that begins days after the tank: what had been done before is not told, and the colony may be anything
HISTORY_DAYS = 4
HISTORY_MG_N_L_DAY, HISTORY_SD = 0.1, 1.8


def power_shift(where: str, hours: float) -> float:
    """Logit shift of the loss in a power cut: in a closed canister a third is gone after a day, four fifths after two;
    a filter open to the tank's water loses far less (judgement)."""
    at_a_day, slope = (-0.6, 2.9) if where == "closed" else (-2.5, 2.0)
    return at_a_day + slope * math.log(max(hours, 0.5) / 24)


def power_loss(where: str, hours: float) -> float:
    """Share of the colony that a power cut likely costs, the median of what the model takes."""
    return _lost(where, power_shift(where, hours))


def _lost(key: str, shift: float) -> float:
    return 1 / (1 + math.exp(-(LOSS[key].mean + shift)))


def culture_of(body: Bacteria, on: date, salinity_g_kg: float) -> tuple[str, float]:
    """(key in SEEDING, share of the seed that counts) of a logged culture: a bottle past its date is taken as one that
    came warm, and media from water of another salinity lose what a jump of salinity costs a colony (judgement)."""
    key = body.source
    if key in ("bottle", "bottle_cool") and body.use_by and body.use_by < on:
        key = "bottle_warm"
    if key != "borrowed":
        return key, 1.0
    share = (USUAL_SHARE if body.share is None else body.share) / USUAL_SHARE
    jump = 0.0 if body.donor_salinity is None else abs(body.donor_salinity - salinity_g_kg)
    if jump > SALT_NOTICED_G_KG:
        share *= 1 - _lost("salt", salt_shift(jump))
    return key, share


USUAL_SHARE = 30.0  # % of a filter that borrowed media usually is; the seed is told for it


def salt_shift(jump_g_kg: float) -> float:
    """Logit shift of the loss by a jump of salinity: half of the colony at 12 g/kg (judgement)."""
    return 0.25 * jump_g_kg
