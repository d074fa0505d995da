"""These animals: which tank? Usual sizes judged for life by both schools of minimum sizes, and for what each is small.

The sizes are the usual boxes of animals/serving.py; the litres are counted as for a tank of the house.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.animals.company import Finding
from jarbloom.core.animals.compatibility import case_of, findings
from jarbloom.core.animals.home import home_of
from jarbloom.core.animals.names import called, nearest_species
from jarbloom.core.animals.serving import OF_SIZE, SIZES, sized
from jarbloom.core.animals.styles import limit_of
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Filter, Heater, Tank
from jarbloom.core.vessel.heat import needed_w, rule_of_thumb_w
from jarbloom.core.vessel.volume import net_l, weight_kg
from jarbloom.units import NUMBERS, Units

LONG_AGO = date(2000, 1, 1)  # a question of size, not of a young tank
NUMBER = {w: k for k, w in enumerate(NUMBERS)} | {"a": 1, "an": 1, "pair": 2, "dozen": 12}
_SPLIT = re.compile(r"\s*(?:,|;|\n|\+|&|\band\b)\s*")
_COUNTED = re.compile(r"^(?:a\s+(?=pair|dozen))?(\d{1,9}|[a-z]+)?\s*(?:x\s+|of\s+)?(.*)$")
MOST_WISHED = 500


@dataclass(frozen=True)
class Open:
    """A name that may mean several kinds, or none: what may be meant, the likeliest first."""

    words: str
    count: int
    meant: tuple[str, ...]


@dataclass(frozen=True)
class Wishes:
    animals: tuple[Animals, ...]
    open: tuple[Open, ...]


@dataclass(frozen=True)
class SizeAnswer:
    """One size. `cautious`, `experienced`: 'serves', 'tight' or 'small'; `against`: what this size lacks."""

    tank: Tank
    litres: float
    kg: float
    cautious: str
    experienced: str
    against: tuple[Finding, ...]
    full: float  # the load in shares of what is usual for its litres


@dataclass(frozen=True)
class WhichTank:
    """`anywhere`: what speaks against these together in a tank of any size."""

    sizes: tuple[SizeAnswer, ...]
    anywhere: tuple[Finding, ...]

    @property
    def first_cautious(self) -> SizeAnswer | None:
        return next((s for s in self.sizes if s.cautious == "serves"), None)

    @property
    def first_experienced(self) -> SizeAnswer | None:
        return next((s for s in self.sizes if s.experienced == "serves"), None)


def read_wishes(text: str, species: Mapping[str, Species]) -> Wishes:
    """'8 rasboras, six kuhli loaches and 2 honey gouramis'. A kind without a number comes as its smallest group."""
    wanted: dict[str, int] = {}
    asked: list[Open] = []
    for part in _SPLIT.split(" ".join(text.lower().split(" ")).strip()):
        found = _COUNTED.match(part.strip())
        if not part.strip() or found is None:
            continue
        count, name = _count(found[1] or ""), found[2].strip()
        if count is None:
            count, name = 0, part.strip()
        meant = called(name, species)
        key = meant.surely(new=True)
        if key is None and len(meant.keys) == 1:
            key = meant.keys[0]
        if key is None:
            near = called(nearest_species(name, species), species).exact if not meant.keys and name else ()
            asked.append(Open(name or part, count, (meant.keys or near)[:8]))
        else:
            wanted[key] = min(wanted.get(key, 0) + (count or species[key].group_min), MOST_WISHED)
    return Wishes(tuple(Animals(k, n) for k, n in wanted.items()), tuple(asked))


def _count(word: str) -> int | None:
    """The number of a word, 0 for none, None where the word is no number but part of a name."""
    if not word:
        return 0
    return min(int(word), MOST_WISHED) if word.isdigit() else NUMBER.get(word)


def water_for(animals: Sequence[Animals], species: Mapping[str, Species]) -> tuple[float, float, float]:
    """(temperature, pH, salinity) in the middle of what all of them bear, else of what most do."""
    kinds = [species[a.species] for a in animals]

    def middle(low: str, high: str) -> float:
        lows, highs = [getattr(k, low) for k in kinds], [getattr(k, high) for k in kinds]
        return (max(lows) + min(highs)) / 2 if max(lows) <= min(highs) else (sum(lows) + sum(highs)) / (2 * len(kinds))

    salt = middle("salt_low", "salt_high")
    return (
        round(middle("temp_low", "temp_high"), 1),
        round(middle("ph_low", "ph_high"), 1),
        0.0 if salt < 1 else round(salt),
    )


def which_tank(animals: Sequence[Animals], species: Mapping[str, Species], today: date, units: Units) -> WhichTank:
    """All usual sizes from small to large. Raises nothing; without animals nothing is answered."""
    if not animals:
        return WhichTank((), ())
    water = water_for(animals, species)
    largest = _judged(_of_size(SIZES[-1], water, today), animals, species, today, units)
    anywhere = tuple(f for f in largest if f.key not in OF_SIZE)
    return WhichTank(tuple(_answer(size, water, animals, species, today, units) for size in SIZES), anywhere)


def of_size(
    size: tuple[int, int, int], animals: Sequence[Animals], species: Mapping[str, Species], today: date
) -> Tank:
    """A tank of a usual size as it would be set up for these animals."""
    return _of_size(size, water_for(animals, species), today)


def _of_size(size: tuple[int, int, int], water: tuple[float, float, float], today: date) -> Tank:
    temp, ph, salt = water
    bare = Tank("a tank", today, temp_c=temp, ph=ph, salinity_g_kg=salt, filled=False)
    return with_usual_equipment(sized(bare, size))


REAL_SHARE = 0.6  # of the flow printed on the box, once media and head are in
FLOW_PER_L, MEDIA_PER_L = 6.0, 0.02  # real, an hour; litres: what is usually sold with a tank (practice)
CANISTER_FROM_L = 90.0
USUAL_W = (25, 50, 75, 100, 150, 200, 300, 400, 600, 800, 1200)


def with_usual_equipment(tank: Tank) -> Tank:
    """Filter and heater of the usual size for its litres: to be corrected by who knows better."""
    litres = net_l(tank)
    flow = max(200.0, round(FLOW_PER_L * litres / REAL_SHARE / 50) * 50)
    kind = "canister" if litres >= CANISTER_FROM_L else "internal"
    media = max(0.5, round(MEDIA_PER_L * litres, 1))
    wanted = max(rule_of_thumb_w(tank), needed_w(tank))
    watts = next((w for w in USUAL_W if w >= wanted), USUAL_W[-1])
    return replace(tank, filters=(Filter("filter", kind, flow, REAL_SHARE, "foam", media),),
                   heaters=(Heater(float(watts), tank.temp_c),))  # fmt: skip


def _judged(
    tank: Tank, animals: Sequence[Animals], species: Mapping[str, Species], today: date, units: Units,
    experienced: bool = False,
) -> tuple[Finding, ...]:  # fmt: skip
    """What is found about them grown up in a tank that is neither young nor lacks flow."""
    home = replace(home_of(tank), started=LONG_AGO, turnover=0.0, experienced=experienced)
    grown = [replace(a, length_cm=species[a.species].adult_cm) for a in animals]
    return tuple(f for f in findings(case_of(home, grown, species, today, units)) if f.severity != "note")


def _answer(
    size: tuple[int, int, int], water: tuple[float, float, float], animals: Sequence[Animals],
    species: Mapping[str, Species], today: date, units: Units,
) -> SizeAnswer:  # fmt: skip
    tank = _of_size(size, water, today)
    litres = net_l(tank)
    full = load_of(animals, species, tank.temp_c, adult=True).total / limit_of(litres, float("inf"))
    lacks = [tuple(f for f in _judged(tank, animals, species, today, units, practised) if f.key in OF_SIZE)
             for practised in (False, True)]  # fmt: skip
    return SizeAnswer(tank, litres, weight_kg(tank), _stance(lacks[0], full), _stance(lacks[1], full), lacks[0], full)


# Times the usual load of so many litres (core.animals.styles): much water to change, and more than one keeps up with
FULL, CROWDED = 2.0, 5.0  # judgement


def _stance(found: Sequence[Finding], full: float) -> str:
    if any(f.severity == "apart" for f in found) or full > CROWDED:
        return "small"
    return "tight" if found or full > FULL else "serves"
