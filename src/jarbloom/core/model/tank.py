"""A tank as set up, and the water that goes into it. Litres, cm, deg C, mg N/L."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import date

from jarbloom.core.model.kit import Kit


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
    by_log: bool = False  # its newest figures were read in a line of a tank's log


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
    room_c: float = 20.0  # in its coldest hours
    room_warm_c: float = 26.0  # in its warmest days
    room_rh: float = 50.0
    devices: tuple[str, ...] = ()  # what may have to be switched off for a while: skimmer, uv, carbon ...
    lid: bool = True
    planted: bool = False
    filled: bool = True
    kit: Kit = Kit()  # noqa: RUF009  frozen, and its default stands in the schema
    source: Source = Source()
    salt_factor: float = 1.05  # g of this keeper's salt for a g of dissolved salts (water of crystallisation)
    school: str = "measured_dose"
    corrective: str = "firm"
    pace: str = "test_led"
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
    home_hours: str = ""  # when somebody can change water, see core.model.hours; empty: the ordinary day
    ready_l: float | None = None  # new water that can be made ready at a time; None: as much as is wanted
    ready_every_h: float = 12.0  # until as much is ready again
    quarantine_of: str = ""  # the tank (its address) for which newcomers are watched here; empty: a tank of its own
    id: int = 0
    slug: str = ""
    typed: dict[str, str] = field(default_factory=dict, compare=False)

    def __hash__(self) -> int:
        """By what tells most tanks apart: what is worked out of a tank is kept with it, and asked for many times."""
        return hash((self.id, self.name, self.measured_l))

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
