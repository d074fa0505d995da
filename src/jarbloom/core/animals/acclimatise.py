"""Bag water to tank water: which way, in how many portions or at what drip, and why (docs/science.md, arrival)."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from jarbloom.core.animals.bioload import FASTING, load_of
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.water.ammonia import NH3_BANDS, unionised_fraction

QUARTER_H = 15.0  # minutes
INVERTEBRATES = ("shrimp", "snail", "crab", "other", "coral", "anemone")
# Steps that animals bear in a quarter of an hour: deg C, pH, g/kg. Practice, as margins below what shocks (judgement).
BEARS = {"hardy": (2.0, 0.5, 2.0), "usual": (1.5, 0.4, 1.5), "delicate": (1.0, 0.25, 1.0)}
SIZES = (0.1, 0.2, 0.25, 0.33, 0.5)  # a portion, as a share of the bag's water
INTERVALS = (5, 10, 15, 20, 30)  # minutes
MOST_PORTIONS = 12
OPEN_BAG_MIN = 90  # so long an open bag is good for: it cools, and what they breathe out stays in it (practice)
# A rise of salinity beyond this takes days, by so much a day, in water that begins as salt as the bag: kidneys and
# gills are rebuilt in days, not hours (docs/science.md, arrival; practice).
RISES_AT_ONCE_G_KG, RISE_A_DAY_G_KG = 3.5, 2.0
LEAST_PORTIONS = 2
POUR_MIN = 2.0  # minutes that a step takes with one bag: open, pour, pour off, look (practice)
FLOAT_MIN, FLOAT_MOST = 15, 60  # minutes that a closed bag floats
LONG_DRIP_MIN, DRIP_MOST = 20, 240
DROPS_PER_ML = 20
UNREAD_PH = 7.0  # of a bag whose pH was not read, or the tank's where that is lower: breathing makes water acid
UNREAD_COLD_C = 3.0  # how far from the tank a bag is taken to be whose temperature was not read
FIRST_DRIPS = 0.1  # share of tank water at which the pH of a dripped bag is the tank's already, at the worst
FREED_MG_N_L = NH3_BANDS[2].upto  # above this, free ammonia during the mixing decides for going across quickly
RISING_PH = 0.3  # a tank this much above the bag frees ammonia as the waters mix
EASY = 0.5  # of what is borne: differences so small need no portions


@dataclass(frozen=True)
class Bag:
    """As read at home; None where it was not read. `hours` on the way. `litres` in one of the `bags`, which came
    together and are alike; what was read is of one of them."""

    litres: float
    temp_c: float | None = None
    ph: float | None = None
    salinity_g_kg: float | None = None
    tan_mg_n_l: float | None = None
    hours: float = 1.0
    bags: int = 1


@dataclass(frozen=True)
class TankWater:
    temp_c: float
    ph: float
    salinity_g_kg: float
    tan_mg_n_l: float


@dataclass(frozen=True)
class Tolerance:
    """Steps in a quarter of an hour that the most sensitive animal bears, and which animal that is."""

    temp_c: float
    ph: float
    salinity_g_kg: float
    of: str


def tolerance_of(animals: Iterable[Animals], species: Mapping[str, Species]) -> Tolerance:
    """Invertebrates bear salt and pH like delicate fish, whatever their row says of hardiness."""
    kinds = [species.get(a.species, species["unknown"]) for a in animals]
    most = min(kinds, key=lambda k: BEARS[_rank(k)])
    return Tolerance(*BEARS[_rank(most)], most.name)


def _rank(kind: Species) -> str:
    return "delicate" if kind.group in INVERTEBRATES else kind.hardiness


@dataclass(frozen=True)
class WayStep:
    """One thing to do, then so many minutes to wait."""

    key: str
    title: str
    litres: float = 0.0
    minutes: float = 0.0
    drops_per_s: float = 0.0


@dataclass(frozen=True)
class WayOver:
    """A way with its steps. `freed`: the highest NH3-N on the way, mg N/L, when the pH rises to the tank's at once (the
    worst case: opening the bag lets its carbon dioxide out). `left`: the shares of the tolerance still to jump at the
    end; above 1 it is more than they bear."""

    way: str
    steps: tuple[WayStep, ...]
    freed: float
    left: float

    @property
    def minutes(self) -> float:
        return sum(s.minutes for s in self.steps)


@dataclass(frozen=True)
class Advice:
    """What is recommended, why, and every way worked out. `assumed`: the bag's ammonia was not read but reckoned."""

    way: str
    reasons: tuple[str, ...]
    courses: Mapping[str, WayOver]
    tan_mg_n_l: float
    assumed: bool


def reckoned_tan(bag: Bag, animals: Sequence[Animals], species: Mapping[str, Species], temp_c: float) -> float:
    """TAN that fasting animals give off on the way, mg N/L: a fifth of a day's excretion by the hours on the way."""
    excreted = sum(load_of([a], species, temp_c).excreted for a in animals)
    return FASTING * excreted * bag.hours / 24 / (bag.litres * bag.bags)


def advise(
    bag: Bag, water: TankWater, animals: Sequence[Animals], species: Mapping[str, Species], discards: bool = True
) -> Advice:
    """The way for this bag. Raises nothing: what was not read does not limit, and the reasons say so."""
    bears = tolerance_of(animals, species)
    assumed = bag.tan_mg_n_l is None
    tan = reckoned_tan(bag, animals, species, water.temp_c) if bag.tan_mg_n_l is None else bag.tan_mg_n_l
    floating = _floating(bag, water, bears)
    courses = {
        "portions": _portions(bag, water, bears, tan, floating, discards),
        "drip": _drip(bag, water, bears, tan, floating),
        "temperature": WayOver("temperature", (floating,), _freed(0.0, bag, tan, water), _left(0.0, bag, water, bears)),
    }
    if rises_far(bag, water):
        courses["days"] = _days(bag, water, tan, floating)
    way, reasons = _choose(bag, water, bears, tan, assumed, courses, animals, species)
    return Advice(way, (*reasons, *_several(bag, courses[way])), courses, tan, assumed)


def open_at_once(bag: Bag, course: WayOver) -> int:
    """How many bags can be worked at a time: a round of all of them is done before the first wants its next step."""
    shortest = min((s.minutes for s in course.steps if s.key.startswith(("portion", "drip"))), default=math.inf)
    return bag.bags if math.isinf(shortest) else min(bag.bags, max(1, int(shortest / POUR_MIN)))


def _several(bag: Bag, course: WayOver) -> tuple[str, ...]:
    if bag.bags == 1:
        return ()
    found = [
        f"{bag.bags} bags on one clock: the same step in each before the next, with a cup, pipette or line of its own "
        "for each, so that nothing is carried from one to another. Read one of them; one that looks or smells "
        "otherwise is read by itself."
    ]
    at_once = open_at_once(bag, course)
    if at_once < bag.bags:
        groups = math.ceil(bag.bags / at_once)
        found.append(
            f"A bag takes about {POUR_MIN:.0f} minutes a step: open {at_once} at a time, in {groups} groups. The "
            "others float shut and in the dark until those are across; an open bag is good for "
            f"{OPEN_BAG_MIN} minutes, a shut one for hours."
        )
    return tuple(found)


def share_of_tank_water(portions: Sequence[float], bag_l: float, discards: bool) -> float:
    """After portions v_i: 1 - V / (V + sum v), or with pouring off after each 1 - product of V / (V + v_i).

    >>> round(share_of_tank_water([0.25] * 4, 1.0, False), 2), round(share_of_tank_water([0.25] * 4, 1.0, True), 2)
    (0.5, 0.59)
    """
    if not discards:
        return 1 - bag_l / (bag_l + sum(portions))
    left = 1.0
    for v in portions:
        left *= bag_l / (bag_l + v)
    return 1 - left


def _differences(bag: Bag, water: TankWater, bears: Tolerance) -> list[float]:
    """pH and salinity between bag and tank, in steps that are borne in a quarter of an hour."""
    found = []
    if bag.ph is not None:
        found.append(abs(water.ph - bag.ph) / bears.ph)
    if bag.salinity_g_kg is not None:
        found.append(abs(water.salinity_g_kg - bag.salinity_g_kg) / bears.salinity_g_kg)
    return found


def _left(share: float, bag: Bag, water: TankWater, bears: Tolerance) -> float:
    return max((d * (1 - share) for d in _differences(bag, water, bears)), default=0.0)


def _freed(share: float, bag: Bag, tan: float, water: TankWater) -> float:
    """NH3-N at a share of tank water with the pH already the tank's; still the bag's before any is added."""
    mixed = tan * (1 - share) + water.tan_mg_n_l * share
    ph = water.ph if share > 0 else (bag.ph if bag.ph is not None else min(water.ph, UNREAD_PH))
    return float(mixed * unionised_fraction(ph, water.temp_c, water.salinity_g_kg))


def _floating(bag: Bag, water: TankWater, bears: Tolerance) -> WayStep:
    apart = UNREAD_COLD_C if bag.temp_c is None else abs(water.temp_c - bag.temp_c)
    minutes = min(max(FLOAT_MIN, QUARTER_H * apart / bears.temp_c), FLOAT_MOST)
    return WayStep("float", "Let the closed bag float", minutes=float(round(minutes / 5) * 5))


def _portions(bag: Bag, water: TankWater, bears: Tolerance, tan: float, floating: WayStep, discards: bool) -> WayOver:
    """The shortest series of equal portions whose every step is borne and whose end leaves less than one step."""
    furthest = max(_differences(bag, water, bears), default=0.0)
    best: tuple[float, int, float, int] | None = None
    for size in SIZES:
        for every in INTERVALS:
            n, share = 0, 0.0
            while n < MOST_PORTIONS and (n < LEAST_PORTIONS or furthest * (1 - share) > 1.0):
                after = share_of_tank_water([size * bag.litres] * (n + 1), bag.litres, discards)
                if furthest * (after - share) > every / QUARTER_H + 1e-9:
                    break
                n, share = n + 1, after
            if n >= LEAST_PORTIONS and furthest * (1 - share) <= 1.0 and n * every <= OPEN_BAG_MIN:
                option = (n * every, n, size, every)
                best = option if best is None or option < best else best
    if best is None:
        n, every = OPEN_BAG_MIN // INTERVALS[2], INTERVALS[2]  # what is left then is told as a jump
        best = (n * every, n, SIZES[0], every)
    _, n, size, every = best
    litres = size * bag.litres
    steps = tuple(WayStep(f"portion-{k + 1}", f"Portion {k + 1} of {n}", litres, float(every)) for k in range(n))
    share = share_of_tank_water([litres] * n, bag.litres, discards)
    first = share_of_tank_water([litres], bag.litres, discards)
    return WayOver("portions", (floating, *steps), _freed(first, bag, tan, water), _left(share, bag, water, bears))


def _drip(bag: Bag, water: TankWater, bears: Tolerance, tan: float, floating: WayStep) -> WayOver:
    """Stages in which the water doubles and half is poured off: each halves what is left, and may drip faster."""
    steps: list[WayStep] = []
    left, share = max(_differences(bag, water, bears), default=0.0), 0.0
    while (left > 1.0 or not steps) and sum(s.minutes for s in steps) < DRIP_MOST:
        minutes = max(QUARTER_H * left, LONG_DRIP_MIN if not steps else QUARTER_H / 3)
        minutes = float(round(minutes / 5) * 5)
        drops = bag.litres * 1000 * DROPS_PER_ML / (minutes * 60)
        n = len(steps) + 1
        steps.append(WayStep(f"drip-{n}", f"Drip until the water has doubled, stage {n}", bag.litres, minutes, drops))
        left, share = left / 2, 1 - (1 - share) / 2
    return WayOver("drip", (floating, *steps), _freed(FIRST_DRIPS, bag, tan, water), _left(share, bag, water, bears))


def rises_far(bag: Bag, water: TankWater) -> bool:
    """Whether the tank is so much saltier than the bag that going over takes days."""
    return bag.salinity_g_kg is not None and water.salinity_g_kg - bag.salinity_g_kg > RISES_AT_ONCE_G_KG


def _days(bag: Bag, water: TankWater, tan: float, floating: WayStep) -> WayOver:
    """Across at once into water as salt as the bag, in a tank of their own; the tank's salinity in daily steps."""
    now = bag.salinity_g_kg or 0.0
    n = math.ceil((water.salinity_g_kg - now) / RISE_A_DAY_G_KG - 1e-9)
    size = (water.salinity_g_kg - now) / n
    days = (
        WayStep(f"salt-{k}", f"Day {k} of {n}: to {now + k * size:.1f} g/kg", minutes=24 * 60.0)
        for k in range(1, n + 1)
    )
    stay = WayStep("stay", f"Into a tank of their own at {now:.1f} g/kg", minutes=24 * 60.0)
    return WayOver("days", (floating, stay, *days), _freed(0.0, bag, tan, water), 0.0)


def _choose(
    bag: Bag, water: TankWater, bears: Tolerance, tan: float, assumed: bool, courses: Mapping[str, WayOver],
    animals: Sequence[Animals], species: Mapping[str, Species],
) -> tuple[str, tuple[str, ...]]:  # fmt: skip
    reasons = []
    told = "reckoned from the journey, not read" if assumed else "read in the bag"
    freed = courses["portions"].freed
    rises = bag.ph is None or water.ph - bag.ph >= RISING_PH
    salt = None if bag.salinity_g_kg is None else abs(water.salinity_g_kg - bag.salinity_g_kg) / bears.salinity_g_kg
    if rises_far(bag, water):
        apart = water.salinity_g_kg - (bag.salinity_g_kg or 0.0)
        reasons.append(
            f"The tank is saltier by {apart:.1f} g/kg: a rise of more than {RISES_AT_ONCE_G_KG:g} is borne over days "
            f"only, at most {RISE_A_DAY_G_KG:g} g/kg a day, in a tank of their own that begins as salt as the bag."
        )
        return "days", tuple(reasons)
    if freed > FREED_MG_N_L and rises:
        now = courses["temperature"].freed
        reasons.append(
            f"Ammonia in the bag ({tan:.2g} mg N/L, {told}): {now:.2g} mg/L of it is free now, {freed:.2g} would be "
            f"as the pH rises to {water.ph:.1f}. Slow mixing would keep them in that."
        )
        if salt is not None and salt > 1:
            reasons.append("The salinity differs too: that jump is harm as well. Which is worse is a judgement.")
        return "temperature", tuple(reasons)
    if salt is not None and salt > 1:
        apart = abs(water.salinity_g_kg - (bag.salinity_g_kg or 0.0))
        reasons.append(f"Salinity differs by {apart:.1f} g/kg; {bears.of} bears {bears.salinity_g_kg:.1f} in 15 min.")
        return "drip", tuple(reasons)
    furthest = max(_differences(bag, water, bears), default=0.0)
    if any(species.get(a.species, species["unknown"]).group in INVERTEBRATES for a in animals) and furthest > EASY:
        text = f"the waters differ by {furthest:.1f} steps that {bears.of}, the most delicate, bears in 15 min."
        reasons.append(f"Invertebrates are in the bag, and {text}")
        return "drip", tuple(reasons)
    if courses["portions"].left > 1:
        reasons.append(
            f"The waters differ by {furthest:.1f} steps that {bears.of} bears in 15 min: more than an open bag of "
            f"{OPEN_BAG_MIN} min can bring."
        )
        return "drip", tuple(reasons)
    if bag.ph is None and bag.salinity_g_kg is None:
        reasons.append("Neither pH nor salinity of the bag was read: portions are the middle way.")
    else:
        reasons.append(f"The waters differ by {furthest:.1f} steps that {bears.of} bears in 15 min.")
    reasons.append(f"Ammonia in the bag: {tan:.2g} mg N/L, {told}; at most {freed:.2g} of it would be free on the way.")
    return "portions", tuple(reasons)
