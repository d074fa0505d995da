"""The kinds of log entry: their fields, limits and words. One table drives forms, shorthand, CSV and checks."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any

from jarbloom.core.journal.readings import LABELS
from jarbloom.core.model.kit import QUANTITIES
from jarbloom.errors import Refused
from jarbloom.units import figure, number

NOTE_MAX = 20_000  # characters


@dataclass(frozen=True)
class Field:
    """One field of a kind. `type` is number, text, choice, flag, date, species or signs."""

    name: str
    label: str
    type: str = "text"
    dimension: str = ""
    unit: str = ""
    low: float = 0.0
    high: float = 1e6
    required: bool = False
    choices: tuple[tuple[str, str], ...] = ()
    hint: str = ""
    whole: bool = False


@dataclass(frozen=True)
class Kind:
    key: str
    label: str
    lane: str  # readings | doses | water | life | care
    fields: tuple[Field, ...]
    example: str
    by_form: bool = True  # offered as a form; the others are written by ticking a job or a step


SIGNS: Mapping[str, str] = {
    "gasping": "gasping at the surface",
    "fast_gills": "breathing fast",
    "lying": "lying on the bottom",
    "clamped": "fins clamped",
    "flashing": "rubbing on objects",
    "hiding": "hiding",
    "not_eating": "not eating",
    "red_gills": "gills red or brown",
    "spots": "white spots or a velvet film",
    "milky": "water milky",
    "green": "water green",
    "smell": "smell",
    "deaths": "animals found dead",
}

WASHED = (
    ("tank_water", "rinsed in tank water"),
    ("tap", "rinsed under the tap"),
    ("replaced", "thrown away, new media"),
    ("dried", "left dry"),
)
POWER = (
    ("closed", "filter in a closed canister"),
    ("open", "filter open to the tank"),
)
CULTURE = (
    ("bottle", "bottle, condition unknown"),
    ("bottle_cool", "bottle kept cool and in date"),
    ("bottle_warm", "bottle that came warm, or is old"),
    ("bottle_frozen", "bottle that was frozen"),
    ("borrowed", "media from a running tank"),
)
DONOR = (("healthy", "healthy for months"), ("sick", "illness or losses lately"), ("unknown", "not known"))
ROCK = (
    ("fresh", "from a running tank, kept under water"),
    ("shipped", "a day or two in wet paper"),
    ("long", "longer on the way, or it smells"),
)
DEVICES = (
    ("skimmer", "protein skimmer"),
    ("uv", "UV lamp"),
    ("carbon", "carbon or other chemical media"),
    ("ozone", "ozone"),
    ("pump", "flow pump"),
    ("filter", "filter"),
)
HOW = (("done", "done"), ("skipped", "skipped"), ("snoozed", "put off"))
BRED = (("yes", "yes"), ("no", "caught in the wild"))
JOINS, LEAVES = ("arrival", "birth"), ("death", "given", "moved")  # who lives in a tank follows from these
ANIMAL_KINDS = (*JOINS, *LEAVES, "count", "quarantine")
BODY = (("found", "body found"), ("not_found", "body not found"))

WHICH = Field("species", "what", "species", required=True)
HOW_MANY = Field("count", "how many", "number", low=1, high=5000, required=True, whole=True)
LENGTH = Field("length_cm", "length now", "number", "length", low=0.1, high=300)

KINDS: Mapping[str, Kind] = {
    kind.key: kind
    for kind in (
        Kind(
            "test",
            "Test readings",
            "readings",
            tuple(Field(q, LABELS[q], "text") for q in QUANTITIES),
            "am .25 ni 1 na 10 ph 7.6 t 25.4",
        ),
        Kind(
            "dose",
            "Ammonia dose",
            "doses",
            (
                Field("amount", "amount", "number", low=0.0, high=5000, required=True),
                Field(
                    "unit",
                    "of",
                    "choice",
                    choices=(
                        ("mg/L", "mg/L as N, target rise"),
                        ("g", "g ammonium chloride"),
                        ("mL", "mL of my solution"),
                        ("mg", "mg N"),
                    ),
                ),
            ),
            "dose 2 mg/l",
        ),
        Kind(
            "feed",
            "Feeding",
            "life",
            (Field("grams", "dry food", "number", unit="g", high=1000, hint="leave empty for a usual ration"),),
            "fed 0.2 g",
        ),
        Kind(
            "change",
            "Water change",
            "water",
            (
                Field("litres", "new water", "number", "volume", low=0.1, high=50000, required=True),
                Field("source_ph", "its pH, if measured", "number", low=3, high=11),
                Field("source_kh", "its KH", "number", unit="dKH", high=60, hint="when it is other water than usual"),
                Field("source_ammonia", "its ammonia", "number", unit="mg/L as N", high=20),
                Field("source_nitrate", "its nitrate", "number", unit="mg/L as N", high=100),
            ),
            "wc 30%",
        ),
        Kind(
            "topoff",
            "Top-off",
            "water",
            (Field("litres", "fresh water", "number", "volume", low=0.01, high=50000, required=True),),
            "top 2 l",
        ),
        Kind(
            "conditioner",
            "Conditioner",
            "care",
            (
                Field("ml", "amount", "number", unit="mL", high=100000),
                Field("detoxifies", "binds ammonia as well", "flag"),
            ),
            "conditioner 10 ml",
        ),
        Kind(
            "bacteria",
            "Bacteria",
            "care",
            (
                Field("source", "what", "choice", choices=CULTURE),
                Field("ml", "amount", "number", unit="mL", high=100000),
                Field("share", "share of the filter, %", "number", high=100, hint="for borrowed media"),
                Field("use_by", "use by", "date", hint="as printed on the bottle"),
                Field("donor", "health of the donor tank", "choice", choices=DONOR),
                Field("donor_salinity", "salinity of the donor tank", "number", unit="g/kg", high=60),
            ),
            "bacteria 100 ml",
        ),
        Kind(
            "rock",
            "Live rock",
            "care",
            (
                Field("kg", "wet weight", "number", unit="kg", low=0.05, high=5000, required=True),
                Field("condition", "how it came", "choice", choices=ROCK),
            ),
            "rock 8 kg",
        ),
        Kind(
            "off",
            "Switched off",
            "care",
            (
                Field("device", "what", "choice", choices=DEVICES, required=True),
                Field("until", "on again on", "date"),
            ),
            "off uv 5d",
        ),
        Kind(
            "on",
            "Switched on again",
            "care",
            (Field("device", "what", "choice", choices=DEVICES, required=True),),
            "on uv",
        ),
        Kind(
            "check",
            "Equipment check",
            "care",
            (
                Field("check", "check", required=True),
                Field("title", "what was checked"),
                Field("fault", "a fault was found", "flag"),
                Field("text", "in words"),
            ),
            "",
            by_form=False,
        ),
        Kind(
            "step",
            "Set-up step",
            "care",
            (
                Field("step", "step", required=True),
                Field("title", "what was done"),
                Field("amount", "with"),
                Field("text", "in words"),
            ),
            "",
            by_form=False,
        ),
        Kind(
            "job",
            "Job",
            "care",
            (
                Field("job", "job", required=True),
                Field("how", "how", "choice", choices=HOW, required=True),
                Field("title", "what"),
                Field("until", "until", "date"),
                Field("text", "reason"),
            ),
            "",
            by_form=False,
        ),
        Kind(
            "media",
            "Media cleaning",
            "care",
            (
                Field("how", "how", "choice", choices=WASHED, required=True),
                Field("share", "share of the media, %", "number", low=1, high=100),
            ),
            "media tap 50%",
        ),
        Kind(
            "bed",
            "Bed disturbed",
            "care",
            (Field("share", "share of the bed, %", "number", low=1, high=100, hint="all of it when left empty"),),
            "bed 50%",
        ),
        Kind(
            "power",
            "Power cut",
            "care",
            (
                Field("hours", "how long", "number", unit="h", low=0.1, high=336, required=True),
                Field("where", "the filter", "choice", choices=POWER),
            ),
            "power 6h",
        ),
        Kind(
            "arrival",
            "Arrival",
            "life",
            (
                WHICH,
                HOW_MANY,
                LENGTH,
                Field("seller", "from", hint="shop, keeper or tank, as you call it"),
                Field("price", "paid for all of them", "number", high=100000),
                Field("tank_bred", "tank-bred", "choice", choices=BRED),
                Field("until", "here for now, until", "date", hint="it stays on the job list until it has moved"),
            ),
            "in 8 harlequin rasbora",
        ),
        Kind(
            "birth",
            "Birth",
            "life",
            (
                WHICH,
                HOW_MANY,
                LENGTH,
            ),
            "born 12 guppies",
        ),
        Kind(
            "given",
            "Given away",
            "life",
            (
                WHICH,
                HOW_MANY,
                Field("to", "to whom"),
            ),
            "gave 4 guppies",
        ),
        Kind(
            "moved",
            "Moved out",
            "life",
            (
                WHICH,
                HOW_MANY,
                Field("to", "to which tank", required=True),
            ),
            "",
            by_form=False,
        ),
        Kind(
            "count",
            "Heads counted",
            "life",
            (
                WHICH,
                Field("count", "how many were seen", "number", low=0, high=5000, required=True, whole=True),
            ),
            "counted 7 rasboras",
        ),
        Kind(
            "quarantine",
            "Into quarantine",
            "life",
            (
                WHICH,
                HOW_MANY,
                LENGTH,
                Field("until", "watched until", "date", required=True),
                Field("seller", "from"),
            ),
            "",
            by_form=False,
        ),
        Kind(
            "death",
            "Found dead",
            "life",
            (
                WHICH,
                HOW_MANY,
                Field("cause", "cause, if known"),
                Field("body", "body", "choice", choices=BODY),
            ),
            "dead 1 rasbora",
        ),
        Kind(
            "observation",
            "Observation",
            "life",
            (
                Field("signs", "seen", "signs"),
                Field("text", "in words"),
            ),
            "saw fish gasping",
        ),
        Kind("note", "Note", "care", (Field("text", "note", "text", required=True),), "note moved the outlet"),
    )
}

OTHER_FIELDS = {"typed", "fraction", "mg_n", "target_mg_n_l", "batch", "override", "already_in", "group", "first"}


def clean_body(kind: str, raw: Mapping[str, Any]) -> dict[str, Any]:
    """Canonical body of an entry from raw values (text or numbers, already in canonical units).

    Raises Refused naming the field. Unknown fields are refused, empty ones are left out.
    """
    if kind not in KINDS:
        raise Refused(f"“{kind}” is no kind of entry.", "kind")
    body: dict[str, Any] = {k: v for k, v in raw.items() if k in OTHER_FIELDS and v not in (None, "")}
    known = {f.name: f for f in KINDS[kind].fields}
    for name in raw:
        if name not in known and name not in OTHER_FIELDS:
            raise Refused(f"“{name}” is not a field of {KINDS[kind].label.lower()}.", name)
    for name, spec in known.items():
        value = raw.get(name)
        if kind == "test":
            continue
        if value in (None, "", (), []):
            if spec.required:
                raise Refused(f"“{spec.label}” is needed.", name)
            continue
        body[name] = _clean(spec, value)
    return body


def _clean(spec: Field, value: Any) -> Any:
    if spec.type == "number":
        found = number(str(value), spec.name, low=spec.low, high=spec.high)
        if spec.whole and found != int(found):
            raise Refused(f"{figure(found)} is not a whole number.", spec.name)
        return int(found) if spec.whole else found
    if spec.type == "choice":
        if value not in dict(spec.choices):
            raise Refused(f"“{value}” is not a choice here.", spec.name)
        return value
    if spec.type == "flag":
        return value in (True, "on", "true", "yes", "1")
    if spec.type == "date":
        try:
            return date.fromisoformat(str(value)).isoformat()
        except ValueError:
            raise Refused(f"“{str(value)[:40]}” is not a date.", spec.name) from None
    if spec.type == "signs":
        signs = [value] if isinstance(value, str) else list(value)
        for sign in signs:
            if sign not in SIGNS:
                raise Refused(f"“{sign}” is not a sign on the list.", spec.name)
        return signs
    text = str(value).strip()
    if len(text) > NOTE_MAX:
        raise Refused(f"This is {len(text):,} characters long; at most {NOTE_MAX:,} can be kept.", spec.name)
    return text
