"""A bundle: `tank.json` and `log.csv` in a folder or zip. Documented in docs/formats.md.

Writes whole journals (struck entries too) and reads them back equal; also reads logs written by hand or by
other programs, with only the plain columns filled.
"""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import asdict, dataclass, field, replace
from datetime import date, datetime
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from jarbloom.core.journal.complete import Setting, complete
from jarbloom.core.journal.kinds import KINDS, clean_body
from jarbloom.core.journal.readings import read
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import QUANTITIES, Reading
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.model.tank_spec import from_spec, to_spec
from jarbloom.core.vessel.volume import net_l
from jarbloom.data.species_rows import species_from
from jarbloom.errors import BadBundle, BadData, Refused
from jarbloom.units import Units

FORMAT, VERSION = "jarbloom-bundle", 1
PLAIN = (
    "amount", "unit", "species", "count", "length_cm", "source", "how", "share", "source_ph", "source_kh",
    "source_ammonia", "source_nitrate", "where", "batch", "cause", "body", "signs", "text", "flag", "device", "until",
    "job", "title", "use_by", "donor", "donor_salinity", "seller", "price", "tank_bred", "to", "group",
)  # fmt: skip
COLUMNS = (
    "id",
    "state",
    "supersedes",
    "when",
    "zone",
    "kind",
    "who",
    "note",
    *QUANTITIES,
    *PLAIN,
    "recorded_at",
    "detail",
)
COPIED = (
    "species", "count", "length_cm", "source", "how", "share", "source_ph", "source_kh", "source_ammonia",
    "source_nitrate", "where", "batch", "cause", "body", "text", "device", "until", "job", "title", "use_by", "donor",
    "donor_salinity", "seller", "price", "tank_bred", "to", "group",
)  # fmt: skip
FLAGS = ("detoxifies", "already_in", "fault")
MAX_BYTES = 200_000_000


class ItemFile(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    species: str
    count: int = Field(ge=1, le=5000)
    length_cm: float | None = Field(default=None, gt=0, le=300)


class BatchFile(BaseModel):
    model_config = ConfigDict(extra="forbid")
    id: int = 0
    name: str
    planned: date
    items: list[ItemFile] = []
    locked: bool = False


class TankFile(BaseModel):
    """tank.json"""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    format: str = Field(pattern=f"^{FORMAT}$")
    version: int = Field(ge=1, le=VERSION)
    tank: dict[str, Any]
    batches: list[BatchFile] = []
    species: list[dict[str, str]] = []


@dataclass(frozen=True)
class Bundle:
    """`own`: cells of the keeper's own species that plan and log name, by key (columns as in docs/species.md)."""

    tank: Tank
    entries: tuple[Entry, ...]
    batches: tuple[Batch, ...]
    own: Mapping[str, Mapping[str, str]] = field(default_factory=dict)

    def known(self, species: Mapping[str, Species]) -> dict[str, Species]:
        """The catalogue and what the bundle brings along; what is known here already stands."""
        brought = {k: species_from(c, f"species {k}") for k, c in self.own.items()}
        return brought | dict(species)


# --- writing -----------------------------------------------------------------------------------------


def tank_json(tank: Tank, batches: Iterable[Batch], own: Mapping[str, Mapping[str, str]] | None = None) -> str:
    listed = [
        {
            "id": b.id,
            "name": b.name,
            "planned": b.planned.isoformat(),
            "locked": b.locked,
            "items": [{"species": a.species, "count": a.count, "length_cm": a.length_cm} for a in b.items],
        }
        for b in batches
    ]
    spec = {"format": FORMAT, "version": VERSION, "tank": to_spec(tank), "batches": listed}
    if own:
        spec["species"] = [dict(cells) for cells in own.values()]
    return json.dumps(spec, indent=2, ensure_ascii=False, allow_nan=False) + "\n"


def _plain(entry: Entry) -> dict[str, Any]:
    """The columns a person reads; the exact canonical values stand in `detail`."""
    b = entry.body
    row = {r.quantity: r.typed for r in entry.readings}
    match entry.kind:
        case "dose":
            row |= {"amount": b["amount"], "unit": b["unit"]}
        case "feed" if "grams" in b:
            row |= {"amount": b["grams"], "unit": "g"}
        case "change" | "topoff":
            row |= {"amount": b["litres"], "unit": "L"}
        case "power":
            row |= {"amount": b["hours"], "unit": "h"}
        case "rock":
            row |= {"amount": b["kg"], "unit": "kg", "how": b.get("condition", "")}
        case "check" | "step":
            row |= {"job": b[entry.kind]}
        case "conditioner" | "bacteria":
            row |= {"amount": b.get("ml", ""), "unit": "mL" if "ml" in b else ""}
    row |= {k: b[k] for k in COPIED if k in b}
    if "signs" in b:
        row["signs"] = " ".join(b["signs"])
    flag = next((name for name in FLAGS if b.get(name)), None)
    if flag:
        row["flag"] = flag
    return row


def log_csv(entries: Iterable[Entry]) -> str:
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, restval="", lineterminator="\n")
    writer.writeheader()
    for e in entries:
        detail = {"body": e.body, "readings": [asdict(r) for r in e.readings]}
        writer.writerow(
            _plain(e)
            | {
                "id": e.id,
                "state": e.state,
                "supersedes": e.supersedes or "",
                "when": e.at.isoformat(),
                "zone": e.zone,
                "kind": e.kind,
                "who": e.who,
                "note": e.note,
                "recorded_at": e.recorded_at.isoformat() if e.recorded_at else "",
                "detail": json.dumps(detail, ensure_ascii=False, allow_nan=False),
            }
        )
    return out.getvalue()


def write(bundle: Bundle, to: Path) -> None:
    """To a folder, or to a zip when the name ends in .zip. Never writes over anything."""
    if to.exists():
        raise BadBundle(f"{to} is there already; an export never writes over anything.")
    files = {"tank.json": tank_json(bundle.tank, bundle.batches, bundle.own), "log.csv": log_csv(bundle.entries)}
    if to.suffix == ".zip":
        with zipfile.ZipFile(to, "x", zipfile.ZIP_DEFLATED) as archive:
            for name, text in files.items():
                archive.writestr(name, text)
        return
    to.mkdir(parents=True)
    for name, text in files.items():
        (to / name).write_text(text, "utf-8")


# --- reading -----------------------------------------------------------------------------------------


def _open(path: Path) -> dict[str, str]:
    if not path.exists():
        raise BadBundle(f"{path} is not there.")
    names = ("tank.json", "log.csv")
    try:
        if path.is_dir():
            missing = [n for n in names if not (path / n).is_file()]
            if missing:
                raise BadBundle(f"{path} holds no {' and no '.join(missing)}.")
            return {n: (path / n).read_text("utf-8-sig") for n in names}
        with zipfile.ZipFile(path) as archive:
            inside = {Path(i.filename).name: i for i in archive.infolist()}
            missing = [n for n in names if n not in inside]
            if missing:
                raise BadBundle(f"{path.name} holds no {' and no '.join(missing)}.")
            if sum(inside[n].file_size for n in names) > MAX_BYTES:
                raise BadBundle(f"{path.name} is too large when unpacked.")
            return {n: archive.read(inside[n]).decode("utf-8-sig") for n in names}
    except (zipfile.BadZipFile, UnicodeDecodeError, OSError) as problem:
        raise BadBundle(f"{path.name} cannot be read as a bundle: {problem}.") from None


def read_bundle(path: Path, species: Mapping[str, Species]) -> Bundle:
    """Read a folder or zip. Raises BadBundle naming file, row and what is wrong."""
    files = _open(path)
    try:
        told = TankFile.model_validate_json(files["tank.json"])
        tank = from_spec(told.tank)
    except ValidationError as problem:
        first = problem.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise BadBundle(f"tank.json, {where or 'file'}: {first['msg']}.") from None
    except Refused as problem:
        raise BadBundle(f"tank.json: {problem.sentence}") from None
    batches = tuple(
        Batch(
            b.id or k + 1,
            b.name,
            b.planned,
            tuple(Animals(i.species, i.count, i.length_cm) for i in b.items),
            locked=b.locked,
        )
        for k, b in enumerate(told.batches)
    )
    try:
        own = {cells.get("key", ""): cells for cells in told.species}
        known = Bundle(tank, (), (), own).known(species)
        setting = setting_for(tank, known)
    except BadData as problem:
        raise BadBundle(f"tank.json: {problem.sentence}") from None
    except Refused as problem:
        raise BadBundle(f"tank.json: {problem.sentence}") from None
    entries = _entries(files["log.csv"], tank, setting)
    by_batch = {
        e.body["batch"]: e.at.date() for e in entries if e.kind == "arrival" and e.state == "live" and "batch" in e.body
    }
    arrived = tuple(replace(b, arrived=by_batch.get(b.id)) for b in batches)
    return Bundle(tank, entries, arrived, own)


def setting_for(tank: Tank, species: Mapping[str, Species]) -> Setting:
    """What a row needs to know of the tank. Raises Refused when its litres cannot be told."""
    return Setting(net_l(tank), tank.kit, Units(), species, (), tank.solution_percent)


def _entries(text: str, tank: Tank, setting: Setting) -> tuple[Entry, ...]:
    reader = csv.DictReader(io.StringIO(text))
    fields = set(reader.fieldnames or ())
    if not {"when", "kind"} <= fields:
        raise BadBundle("log.csv: the columns ‘when’ and ‘kind’ are needed.")
    odd = fields - set(COLUMNS)
    if odd:
        raise BadBundle(f"log.csv: the column ‘{sorted(odd)[0]}’ is not known.")
    found: list[Entry] = []
    seen: dict[object, int] = {}
    for row in _rows(reader):
        where = f"log.csv row {reader.line_num}"
        if None in row:
            raise BadBundle(f"{where}: more cells than columns.")
        cells = {k: (v or "").strip() for k, v in row.items()}
        try:
            entry = entry_from_cells(cells, row.get("note") or "", tank, setting, len(found) + 1)
            _refuse_twins(entry, cells.get("id", ""), seen, reader.line_num)
            found.append(entry)
        except Refused as problem:
            raise BadBundle(f"{where}, {problem.field or 'row'}: {problem.sentence}") from None
        except (ValueError, KeyError, TypeError) as problem:
            raise BadBundle(f"{where}: {problem}.") from None
    return tuple(sorted(found, key=lambda e: (e.at, e.id)))


def _rows(reader: csv.DictReader) -> Iterator[dict[str, Any]]:
    try:
        yield from reader
    except csv.Error as problem:
        raise BadBundle(f"log.csv row {reader.line_num + 1}: {problem}.") from None


def _refuse_twins(entry: Entry, told_id: str, seen: dict[object, int], row: int) -> None:
    """Two rows of one id, or a row without id that says the same as an earlier one: which was meant is not guessed."""
    key = told_id or repr((entry.kind, entry.at, sorted(entry.body.items(), key=str), entry.readings, entry.note))
    if key in seen:
        what = f"id {told_id} stands in row {seen[key]} too" if told_id else f"it repeats row {seen[key]}"
        raise Refused(f"{what}; leave one out, or give both an id of their own.", "id")
    seen[key] = row


def _moment(text: str, zone: str) -> datetime:
    at = datetime.fromisoformat(text)
    if at.tzinfo is None:
        try:
            return at.replace(tzinfo=ZoneInfo(zone or "UTC"))
        except (ZoneInfoNotFoundError, ValueError):
            raise Refused(f"“{zone}” is not a time zone.", "zone") from None
    return at


def entry_from_cells(c: Mapping[str, str], note: str, tank: Tank, setting: Setting, number: int) -> Entry:
    kind = c["kind"]
    if kind not in KINDS:
        raise Refused(f"“{kind}” is no kind of entry.", "kind")
    state = c.get("state") or "live"
    if state not in ("live", "superseded", "void"):
        raise Refused(f"“{state}” is no state.", "state")
    readings: tuple[Reading, ...]
    if c.get("detail"):
        detail = json.loads(c["detail"])
        readings = tuple(Reading(**r) for r in detail["readings"])
        body = clean_body(kind, detail["body"])
    else:
        readings = tuple(read(q, c[q], tank.kit) for q in QUANTITIES if kind == "test" and c.get(q))
        body = complete(kind, clean_body(kind, _raw(kind, c, setting)), setting)
    if kind == "test" and not readings:
        raise Refused("A test without a reading.", "ammonia")
    recorded = c.get("recorded_at")
    return Entry(
        kind,
        _moment(c["when"], c.get("zone", "")),
        body,
        readings,
        note,
        c.get("who", ""),
        c.get("zone") or "UTC",
        int(c.get("id") or number),
        state,
        int(c["supersedes"]) if c.get("supersedes") else None,
        datetime.fromisoformat(recorded) if recorded else None,
    )


_MORE = {
    "arrival": ("seller", "price", "tank_bred", "until"), "birth": ("length_cm",), "given": ("to",), "moved": ("to",),
    "quarantine": ("length_cm", "until", "seller"),
}  # fmt: skip


def _told(kind: str, c: Mapping[str, str]) -> dict[str, Any]:
    """The further columns of an entry about animals, and the group it names."""
    more: dict[str, Any] = {k: c.get(k, "") for k in _MORE.get(kind, ())}
    return more | ({"group": int(c["group"])} if c.get("group") else {})


def _raw(kind: str, c: Mapping[str, str], setting: Setting) -> dict[str, Any]:
    """Body fields from the plain columns of a hand-written row."""
    amount, unit = c.get("amount", ""), c.get("unit", "")
    match kind:
        case "dose":
            raw: dict[str, Any] = {"amount": amount, "unit": unit or "mg/L"}
        case "feed":
            raw = {"grams": amount}
        case "change" | "topoff":
            litres = float(amount) * {"%": setting.net_l / 100, "gal": 3.785411784}.get(unit, 1.0) if amount else ""
            raw = {"litres": litres}
            if kind == "change":
                raw |= {k: c.get(k, "") for k in ("source_ph", "source_kh", "source_ammonia", "source_nitrate")}
        case "conditioner":
            raw = {"ml": amount, "detoxifies": c.get("flag") == "detoxifies"}
        case "bacteria":
            raw = {"ml": amount, "source": c.get("source") or "bottle"}
            raw |= {k: c.get(k, "") for k in ("share", "use_by", "donor", "donor_salinity")}
        case "rock":
            raw = {"kg": amount, "condition": c.get("how", "")}
        case "off" | "on":
            raw = {k: c.get(k, "") for k in (("device", "until") if kind == "off" else ("device",))}
        case "check":
            raw = {"check": c.get("job", ""), "title": c.get("title", ""), "text": c.get("text", "")}
            raw["fault"] = c.get("flag") == "fault"
        case "step":
            raw = {"step": c.get("job", ""), "title": c.get("title", ""), "text": c.get("text", "")}
        case "job":
            raw = {k: c.get(k, "") for k in ("job", "how", "title", "until", "text")}
        case "media":
            raw = {"how": c.get("how", ""), "share": c.get("share", "")}
        case "bed":
            raw = {"share": c.get("share", "")}
        case "power":
            raw = {"hours": amount, "where": c.get("where", "")}
        case "birth" | "given" | "moved" | "count" | "quarantine":
            raw = {k: c.get(k, "") for k in ("species", "count")} | _told(kind, c)
        case "arrival" | "death":
            raw = {k: c.get(k, "") for k in ("species", "count")} | _told(kind, c)
            if kind == "arrival":
                raw["length_cm"] = c.get("length_cm", "")
                if c.get("batch"):
                    raw["batch"] = int(c["batch"])
            if kind == "death":
                raw |= {"cause": c.get("cause", ""), "body": c.get("body", "")}
            elif c.get("flag") == "already_in":
                raw["already_in"] = True
        case "observation":
            raw = {"signs": c.get("signs", "").split(), "text": c.get("text", "")}
        case _:
            raw = {"text": c.get("text", "")} if kind == "note" else {}
    return raw
