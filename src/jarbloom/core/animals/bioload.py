"""Mass, ration and the nitrogen that animals put into the water, mg N a day."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date

from jarbloom.core.animals.growth import adult_cm, length_on
from jarbloom.core.model.species import Animals, Species

# Mass W = a L^b by body form, g and cm (classes after Froese, Thorson & Reyes 2014); shell: flesh only, judgement
BODY_FORM = {
    "eel": (0.001, 3.0),
    "elongated": (0.004, 3.0),
    "torpedo": (0.011, 3.0),
    "deep": (0.02, 3.0),
    "shell": (0.08, 3.0),
    "crab": (0.06, 3.0),  # judgement, as are those below
    "star": (0.01, 3.0),
    "coral": (0.00005, 3.0),  # what lives on light gives little off
}
# diet class -> (protein share of dry feed, share of the usual ration); judgement from label ranges
DIET = {"carnivore": (0.46, 1.0), "omnivore": (0.42, 1.0), "herbivore": (0.35, 0.8), "detritivore": (0.30, 0.5)}
EXCRETED_PER_PROTEIN = 0.092  # g N as TAN per g protein eaten (Timmons & Ebeling, Recirculating Aquaculture)
N_PER_PROTEIN = 0.16
UNEATEN = 0.10
FAECAL_N = 0.15  # share of the eaten N that leaves as faeces; judgement, 0.1 to 0.2
FASTING = 0.20  # a fasting fish still excretes about a fifth
BODY_N = 0.025  # N per wet mass of a dead body
OMNIVORE_PROTEIN = DIET["omnivore"][0]


@dataclass(frozen=True)
class Load:
    """Nitrogen from animals, mg N a day: straight into TAN, and as particles that rot later."""

    excreted: float = 0.0
    particulate: float = 0.0

    @property
    def total(self) -> float:
        return self.excreted + self.particulate

    def __add__(self, other: Load) -> Load:
        return Load(self.excreted + other.excreted, self.particulate + other.particulate)


def mass_g(species: Species, length_cm: float) -> float:
    """Wet mass of one animal, W = a L^b with the species' own a and b, else its body form's.

    >>> from types import SimpleNamespace as S
    >>> round(mass_g(S(a=None, b=None, body="torpedo"), 4.0), 3)
    0.704
    """
    form_a, form_b = BODY_FORM[species.body]
    a = form_a if species.a is None else species.a
    b = form_b if species.b is None else species.b
    return a * length_cm**b


def ration_g_day(mass: float, temp_c: float, diet: str = "omnivore") -> float:
    """Dry feed a day for one animal: 2.5 % W^-0.20 of its mass at 25 deg C, Q10 2 (docs/science.md, bioload)."""
    return 0.025 * mass**-0.20 * mass * 2 ** ((temp_c - 25) / 10) * DIET[diet][1]


def feed_load(grams: float, protein: float = OMNIVORE_PROTEIN) -> Load:
    """Nitrogen that so much dry feed a day brings when animals eat it."""
    eaten, left = grams * (1 - UNEATEN) * protein, grams * UNEATEN * protein
    return Load(1000 * eaten * EXCRETED_PER_PROTEIN, 1000 * N_PER_PROTEIN * (left + eaten * FAECAL_N))


def rotting_food_mg_n(grams: float, protein: float = OMNIVORE_PROTEIN) -> float:
    """mg N in food that nobody eats: all of it rots (pinch feeding)."""
    return 1000 * grams * protein * N_PER_PROTEIN


def one_load(species: Species, length_cm: float, temp_c: float) -> Load:
    ration = ration_g_day(mass_g(species, length_cm), temp_c, species.diet)
    return feed_load(ration, DIET[species.diet][0])


def load_of(
    group: Iterable[Animals], species: Mapping[str, Species], temp_c: float, on: date | None = None, adult: bool = False
) -> Load:
    """Load of animals at their length on a date, or grown up."""
    total = Load()
    for animals in group:
        kind = species.get(animals.species, species["unknown"])
        length = adult_cm(animals, kind) if adult else length_on(animals, kind, on)
        one = one_load(kind, length, temp_c)
        total += Load(one.excreted * animals.count, one.particulate * animals.count)
    return total


def usual_feed_g_day(
    group: Iterable[Animals], species: Mapping[str, Species], temp_c: float, on: date | None = None
) -> float:
    """Dry feed a day by the usual ration, for the jobs list."""
    total = 0.0
    for animals in group:
        kind = species.get(animals.species, species["unknown"])
        total += animals.count * ration_g_day(mass_g(kind, length_on(animals, kind, on)), temp_c, kind.diet)
    return total
