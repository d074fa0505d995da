"""The domain as frozen dataclasses. Canonical units: litres, cm, deg C, mg N/L, mg N a day, g, days."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import date, datetime
from typing import Any

# --- kit and readings -------------------------------------------------------------------------------

QUANTITIES = ("ammonia", "nitrite", "nitrate", "ph", "kh", "temp", "salinity")
NITROGEN = ("ammonia", "nitrite", "nitrate")

# mg of the named form that hold 1 mg N (IUPAC 2021 atomic masses; 2-science.md section 1)
MG_PER_MG_N = {"N": 1.0, "NH3": 17.031 / 14.007, "NH4": 18.038 / 14.007, "NO2": 46.005 / 14.007, "NO3": 62.004 / 14.007}


@dataclass(frozen=True)
class Scale:
    """One scale of a kit: its colour steps in its own form ('N', 'NH4', 'NO2', ...)."""

    steps: tuple[float, ...]
    form: str = "N"

    @property
    def per_n(self) -> float:
        """Kit units that one mg N/L reads as."""
        return MG_PER_MG_N[self.form]


@dataclass(frozen=True)
class Kit:
    """A test kit. `misread` is the chance of taking a neighbouring colour step."""

    kind: str = "liquid"
    ammonia: Scale = Scale((0, 0.25, 0.5, 1, 2, 4, 8))
    nitrite: Scale = Scale((0, 0.25, 0.5, 1, 2, 5))
    nitrate: Scale = Scale((0, 5, 10, 20, 40, 80, 160), "NO3")
    misread: float = 0.17

    def scale(self, quantity: str) -> Scale:
        return getattr(self, quantity)


@dataclass(frozen=True)
class Reading:
    """What was seen, as an interval [low, high]; `outer_*` also spans the neighbouring colour steps.

    Nitrogen forms in mg N/L (high may be None: open top), pH without unit, KH in dKH, temp in deg C.
    `typed` and `form` keep what the keeper wrote and on which scale.
    """

    quantity: str
    typed: str
    seen: float
    low: float
    high: float | None
    outer_low: float
    outer_high: float | None
    form: str = "N"
    misread: float = 0.17
    n_steps: int = 6
    masked: bool = False  # something in the water upsets this test: kept, but not believed


# --- the log ---------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Entry:
    """One line of the journal. `body` holds the kind's own fields (see core.log.kinds)."""

    kind: str
    at: datetime
    body: dict[str, Any] = field(default_factory=dict)
    readings: tuple[Reading, ...] = ()
    note: str = ""
    who: str = ""
    zone: str = "UTC"
    id: int = 0
    state: str = "live"  # live | superseded | void
    supersedes: int | None = None
    recorded_at: datetime | None = None
    act: int = 0


# --- tank ------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Source:
    """The water that goes in: the tap or another source. Concentrations in mg N/L, phosphate as PO4."""

    ph: float = 7.6
    kh_dkh: float = 6.0
    ammonia_mg_n_l: float = 0.0
    nitrate_mg_n_l: float = 1.0
    cold_c: float = 12.0
    hot_c: float = 55.0
    gh_dgh: float | None = None
    tds_mg_l: float | None = None
    phosphate_mg_l: float | None = None
    chlorine: str = "unknown"  # none | chlorine | chloramine | unknown
    chlorine_mg_l: float | None = None
    name: str = ""

    @property
    def brings_mg_n_l(self) -> float:
        """Ammonia that goes in with it: what was measured, and what chloramine leaves when it is broken."""
        broken = N_PER_CHLORAMINE * (self.chlorine_mg_l or 0.0) if self.chlorine == "chloramine" else 0.0
        return max(self.ammonia_mg_n_l, broken)


N_PER_CHLORAMINE = 14.007 / 70.906  # mg N in chloramine measured as mg/L Cl2


@dataclass(frozen=True)
class Water:
    """A source water of the house, as recorded: several tanks may be filled from it."""

    name: str
    kind: str  # tap | ro | rain | well | other
    source: Source
    measured_on: date | None = None
    note: str = ""
    id: int = 0


@dataclass(frozen=True)
class Instrument:
    """What salinity is read with. `calibrated_at_c` is the temperature at which its scale is true."""

    name: str
    kind: str  # refractometer | hydrometer | swing_arm | conductivity
    calibrated_on: date | None = None
    calibrated_at_c: float = 25.0
    id: int = 0


@dataclass(frozen=True)
class Heater:
    watts: float
    set_c: float | None = None


@dataclass(frozen=True)
class Filter:
    """A filter: nominal flow as printed, the share of it that is real, the media inside and the water it holds."""

    name: str = "filter"
    kind: str = "internal"  # internal | canister | hang_on | sponge | sump
    nominal_l_h: float = 400.0
    real_share: float = 1.0
    media: str = "foam"
    media_l: float = 1.0
    water_l: float = 0.0

    @property
    def flow_l_h(self) -> float:
        return self.nominal_l_h * self.real_share


@dataclass(frozen=True)
class Decor:
    """Stone, porous reef rock or wood under water, by mass (kg) or by volume (L)."""

    kind: str  # stone | reef_rock | wood
    amount: float
    unit: str = "kg"


@dataclass(frozen=True)
class Tank:
    """A tank as set up. Geometry may be missing when only its litres are known.

    `substrate_cm` is the depth of the bed in front, `substrate_back_cm` at the back (None: level).
    """

    name: str
    started: date
    length_cm: float | None = None
    width_cm: float | None = None
    height_cm: float | None = None
    waterline_cm: float = 3.0
    shape: str = "box"  # see core.vessel.shapes
    bow_cm: float | None = None
    outside: bool = False  # the sizes were taken outside, over the glass
    glass_mm: float = 8.0
    substrate: str = "sand"
    substrate_cm: float = 0.0
    substrate_back_cm: float | None = None
    decor: tuple[Decor, ...] = ()
    sump_l: float = 0.0
    measured_l: float | None = None
    temp_c: float = 25.0
    ph: float = 7.4
    kh_dkh: float = 5.0
    salinity_g_kg: float = 0.0
    filters: tuple[Filter, ...] = (Filter(),)
    heaters: tuple[Heater, ...] = (Heater(100.0),)
    turnover: str = "general"
    surface: str = "rippled"  # still | rippled | broken
    room_c: float = 20.0
    room_rh: float = 50.0
    devices: tuple[str, ...] = ()  # what may have to be switched off for a while: skimmer, uv, carbon ...
    lid: bool = True
    planted: bool = False
    filled: bool = True
    kit: Kit = Kit()
    source: Source = Source()
    salt_factor: float = 1.05  # g of this keeper's salt for a g of dissolved salts (water of crystallisation)
    school: str = "measured_dose"
    corrective: str = "firm"
    pace: str = "belt_and_braces"
    marine_nitrite: str = "strict"
    minimum: str = "cautious"  # whose minimum sizes count: cautious | experienced
    quarantine: str = "in_place"
    quarantine_days: float | None = None  # instead of the school's
    acclimatising: str = ""  # the keeper's own choice; empty: what is recommended for each bag
    bag_water: str = "never"
    target_mg_n_l: float = 2.0
    dose_from: str = "chloride"  # chloride | solution
    solution_percent: float = 9.5
    conditioner_ml_per_100l: float | None = None
    conditioner_whole_tank: bool = False
    id: int = 0
    slug: str = ""
    typed: dict[str, str] = field(default_factory=dict, compare=False)

    @property
    def media_l(self) -> float:
        return sum(f.media_l for f in self.filters)

    @property
    def flow_l_h(self) -> float:
        """Real flow of all filters together."""
        return sum(f.flow_l_h for f in self.filters)

    @property
    def heater_w(self) -> float:
        return sum(h.watts for h in self.heaters)

    @property
    def refill(self) -> Source:
        """The water that goes in at a change, ready mixed: salt brings alkalinity and pH, taken as the tank's own."""
        if self.salinity_g_kg < BRACKISH_FROM_G_KG:
            return self.source
        return replace(self.source, ph=self.ph, kh_dkh=self.kh_dkh)

    @property
    def marine(self) -> bool:
        return self.salinity_g_kg >= MARINE_FROM_G_KG

    @property
    def water_kind(self) -> str:
        """fresh, brackish or marine, by the salinity aimed at."""
        return "marine" if self.marine else ("brackish" if self.salinity_g_kg >= BRACKISH_FROM_G_KG else "fresh")


BRACKISH_FROM_G_KG, MARINE_FROM_G_KG = 1.0, 25.0  # judgement; below 1 g/kg the fresh-water equilibrium is used


# --- animals ---------------------------------------------------------------------------------------


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
    nips_fins: bool
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
    caution: str

    @property
    def water(self) -> str:
        """fresh, brackish or marine, by the salinity it lives in."""
        if self.salt_low >= MARINE_FROM_G_KG:
            return "marine"
        return "brackish" if self.salt_low >= BRACKISH_FROM_G_KG else "fresh"

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


@dataclass(frozen=True)
class Batch:
    """Animals planned to go in together. `arrived` is set when a live arrival entry names the batch."""

    id: int
    name: str
    planned: date
    items: tuple[Animals, ...]
    arrived: date | None = None
    locked: bool = False  # the planner leaves it as it is


# --- advice ----------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Job:
    """Something to do. `shorthand` is the log line that ticking it writes; empty asks for a reading."""

    kind: str
    title: str
    why: str
    due: datetime
    due_text: str
    urgent: bool = False
    amount: float | None = None
    unit: str = ""
    shorthand: str = ""
    hardness: str = "practice"
    caution: str = ""
    subject: str = ""  # which of several of its kind: a check, a device, a step
    where: str = ""  # the page it is done on, when it is not done by a tick

    @property
    def key(self) -> str:
        """What a snooze or a skip is remembered by."""
        return f"{self.kind}.{self.subject}" if self.subject else self.kind

    @property
    def protects(self) -> bool:
        """It protects animals today: it can be skipped with a reason, but not put off in silence."""
        return self.urgent and self.hardness == "safety"


@dataclass(frozen=True)
class Verdict:
    """`state` is hold, test, add or act. Sentence = call + because, then advice in italic."""

    state: str
    call: str
    because: str
    advice: str
    reasons: tuple[str, ...]

    @property
    def sentence(self) -> str:
        return " ".join(part for part in (self.call, self.because, self.advice) if part)
