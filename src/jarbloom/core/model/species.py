"""A row of the catalogue, and animals of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.model.tank import BRACKISH_FROM_G_KG, MARINE_FROM_G_KG

OWN_KEY = "own_"  # keys of a keeper's own rows begin with it
SOURCE_GROUPS = {
    "fresh": "handbooks of freshwater keeping",
    "brackish": "handbooks of brackish tanks",
    "marine": "handbooks of saltwater keeping",
    "reef": "the practice of reef keepers",
}


@dataclass(frozen=True)
class Species:
    """One row of the catalogue, columns as in docs/species.md. Lengths in cm, temperatures in deg C, hardness in dGH,
    salinity in g/kg, volumes in L."""

    key: str
    name: str
    scientific: str
    synonyms: tuple[str, ...]
    group: str  # fish | shrimp | snail | crab | other | coral | anemone
    body: str  # eel | elongated | torpedo | deep | shell | crab | star | coral
    a: float | None
    b: float | None
    adult_cm: float
    shop_cm: float
    growth_k: float
    lifespan_y: float
    temp_low: float
    temp_high: float
    ph_low: float
    ph_high: float
    gh_low: float
    gh_high: float
    salt_low: float
    salt_high: float
    min_l_cautious: float
    min_l_experienced: float
    min_length_cm: float
    min_length_experienced_cm: float
    swims: str  # active | moderate | sedentary
    footprint_reason: str  # why an active swimmer's footprint is shorter than five adult lengths
    group_min: int
    sex_ratio: str
    zone: str  # top | middle | bottom | glass | rock | sand | open
    temperament: str
    territory: str  # none | mild | strong
    alike: str  # animals of one such word are rivals, as look-alikes or kin
    mouth_ratio: float
    diet: str
    feeding: str
    refusal: str
    eats_plants: bool
    digs: bool
    nips_fins: str  # no, mild, yes
    long_fins: bool
    jumps: bool
    nocturnal: bool
    spines: bool
    eats_invertebrates: str  # empty, or which
    eats_corals: str
    ammonia_sensitivity: str  # hardy | usual | sensitive
    nitrite_sensitivity: str
    hardiness: str  # hardy | usual | delicate
    order: str  # first | middle | last
    flow: str
    reef: str  # yes | caution | no, for salt water
    maturity_months: float  # age of the tank that it needs
    tank_bred: str
    care: str
    confidence: str  # how sure the row is
    checked: (
        str  # compared with values written down unseen: 'blind' by another hand, 'again' by the same (docs/species.md)
    )
    caution: str

    @property
    def water(self) -> str:
        """fresh, brackish or marine, by the salinity it lives in."""
        if self.salt_low >= MARINE_FROM_G_KG:
            return "marine"
        return "brackish" if self.salt_low >= BRACKISH_FROM_G_KG else "fresh"

    @property
    def genus(self) -> str:
        return self.scientific.split()[0].strip(",") if self.scientific.strip() else ""

    @property
    def rests_on(self) -> str:
        """The general group of sources that its ranges come from (docs/species.md, What the rows rest on)."""
        if self.key.startswith(OWN_KEY):
            return "its keeper's own"
        return SOURCE_GROUPS[self.water if self.moves else "reef"]

    @property
    def moves(self) -> bool:
        """It swims or walks: corals and anemones sit."""
        return self.group not in ("coral", "anemone")


@dataclass(frozen=True)
class Animals:
    """So many of one kind, at a length on a date. `species` is a catalogue key or 'unknown'."""

    species: str
    count: int
    length_cm: float | None = None
    since: date | None = None
    measured: tuple[tuple[date, float], ...] = ()  # lengths since, in order of their days, cm
