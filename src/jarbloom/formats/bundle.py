"""A bundle: `tank.json` and `log.csv` in a folder or zip. Documented in docs/formats.md.

Writes whole journals (struck entries too) and reads them back equal; also reads logs written by hand or by
other programs, with only the plain columns filled.
"""

from __future__ import annotations

import csv
import io
import json
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from datetime import date, datetime
from pathlib import Path
from typing import IO, Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.animals import AboutAnimals
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.damaged import Damaged
from jarbloom.core.journal.kinds.field import MOST_ID, NOTE_MAX
from jarbloom.core.journal.kinds.kind import Kind
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.times import check_not_future
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import QUANTITIES
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.model.tank_spec import from_spec, to_spec
from jarbloom.core.vessel.limits import check_limits
from jarbloom.core.vessel.volume import net_l
from jarbloom.data.species_rows import species_from
from jarbloom.errors import BadBundle, BadData, Refused
from jarbloom.formats.photo_pack import copy_into, is_photo, pack
from jarbloom.units import MOST_HEADS, Units

FORMAT, VERSION = "jarbloom-bundle", 1
# The order in which the columns have stood from the first version on; what kinds of entry add stands behind.
_ORDER = (
    "amount", "unit", "species", "count", "length_cm", "source", "how", "share", "source_ph", "source_kh",
    "source_ammonia", "source_nitrate", "where", "batch", "cause", "body", "signs", "text", "flag", "device", "until",
    "job", "title", "use_by", "donor", "donor_salinity", "seller", "price", "tank_bred", "to", "group",
)  # fmt: skip
_ALL = {c for k in KINDS.values() for c in k.columns()} - set(QUANTITIES)
PLAIN = (*_ORDER, *sorted(_ALL - set(_ORDER)))
COLUMNS = (
    "id", "state", "supersedes", "when", "zone", "kind", "who", "note", *QUANTITIES, *PLAIN, "recorded_at", "detail",
)  # fmt: skip
MAX_BYTES = 200_000_000
MAX_ROWS = 500_000
MAX_FILES = 2_000  # beside the photos
NAMES = ("tank.json", "log.csv")
# All that a damaged archive may raise while it is opened and unpacked
NO_ZIP = (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError, OSError, ValueError)
STATES = ("live", "superseded", "void")
EARLIEST, LATEST = 1970, 2200  # years that a moment may lie in at all


class ItemFile(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    species: str
    count: int = Field(ge=1, le=MOST_HEADS)
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
    zone: str = Field(default="", max_length=80)


@dataclass(frozen=True)
class Bundle:
    """`own`: cells of the keeper's own species that plan and log name, by key (columns as in docs/species.md).

    `zone`: the keeper's, by which days are counted; '' where the bundle does not say. `photos`: files that go along, by
    the hash that entries name them by; what a bundle brings is read by photo_pack.
    """

    tank: Tank
    entries: tuple[Entry, ...]
    batches: tuple[Batch, ...]
    own: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    zone: str = ""
    photos: Mapping[str, Path] = field(default_factory=dict)

    def known(self, species: Mapping[str, Species]) -> dict[str, Species]:
        """The catalogue and what the bundle brings along; what is known here already stands."""
        brought = {k: species_from(c, f"species {k}") for k, c in self.own.items()}
        return brought | dict(species)


# --- writing -----------------------------------------------------------------------------------------


def tank_json(
    tank: Tank, batches: Iterable[Batch], own: Mapping[str, Mapping[str, str]] | None = None, zone: str = ""
) -> str:
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
    if zone:
        spec["zone"] = zone
    if own:
        spec["species"] = [dict(cells) for cells in own.values()]
    return json.dumps(spec, indent=2, ensure_ascii=False, allow_nan=False) + "\n"


def log_csv(entries: Iterable[Entry]) -> str:
    """All entries; the exact canonical values stand in `detail`. What is damaged travels as a note, word for word."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, restval="", lineterminator="\n")
    writer.writeheader()
    for e in entries:
        body = Note(text=f"{e.body.problem} {e.body.held}"[:NOTE_MAX]) if isinstance(e.body, Damaged) else e.body
        detail = {"body": body.to_json(), "readings": [asdict(r) for r in body.seen]}
        writer.writerow(
            body.plain()
            | {
                "id": e.id,
                "state": e.state,
                "supersedes": e.supersedes or "",
                "when": e.at.isoformat(),
                "zone": e.zone,
                "kind": body.key,
                "who": e.who,
                "note": e.note,
                "recorded_at": e.recorded_at.isoformat() if e.recorded_at else "",
                "detail": json.dumps(detail, ensure_ascii=False, allow_nan=False),
            }
        )
    return out.getvalue()


def files_of(bundle: Bundle) -> dict[str, str]:
    """The two files of a bundle by name."""
    return {
        "tank.json": tank_json(bundle.tank, bundle.batches, bundle.own, bundle.zone),
        "log.csv": log_csv(bundle.entries),
    }


def zip_into(bundle: Bundle, to: IO[bytes]) -> None:
    with zipfile.ZipFile(to, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in files_of(bundle).items():
            archive.writestr(name, text)
        pack(archive, bundle.photos)


def write(bundle: Bundle, to: Path) -> None:
    """To a folder, or to a zip when the name ends in .zip. Never writes over anything."""
    if to.exists():
        raise BadBundle(f"{to} is there already; an export never writes over anything.")
    if to.suffix == ".zip":
        with to.open("xb") as file:
            zip_into(bundle, file)
        return
    to.mkdir(parents=True)
    for name, text in files_of(bundle).items():
        (to / name).write_text(text, "utf-8")
    copy_into(to, bundle.photos)


# --- reading -----------------------------------------------------------------------------------------


def _open(path: Path) -> dict[str, str]:
    if not path.exists():
        raise BadBundle(f"{path} is not there.")
    if not path.is_dir():
        return unpacked(path, NAMES)
    missing = [n for n in NAMES if not (path / n).is_file()]
    if missing:
        raise BadBundle(f"{path} holds no {' and no '.join(missing)}.")
    if sum((path / n).stat().st_size for n in NAMES) > MAX_BYTES:
        raise BadBundle(f"{path.name} is too large.")
    try:
        return {n: (path / n).read_text("utf-8-sig") for n in NAMES}
    except (UnicodeDecodeError, OSError) as problem:
        raise BadBundle(f"{path.name} cannot be read as a bundle: {problem}.") from None


def unpacked(path: Path, wanted: Sequence[str] | None = None) -> dict[str, str]:
    """Text files of a zip by name: those `wanted`, wherever in it they lie, or all by their whole names.

    What an archive says of its sizes is not believed: bytes are counted as they come out. Raises BadBundle.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            infos = [i for i in archive.infolist() if not i.is_dir() and not is_photo(i.filename)]
            if len(infos) > MAX_FILES:
                raise BadBundle(f"{path.name} holds more than {MAX_FILES:,} files.")
            inside = {i.filename if wanted is None else Path(i.filename).name: i for i in infos}
            missing = [n for n in wanted or () if n not in inside]
            if missing:
                raise BadBundle(f"{path.name} holds no {' and no '.join(missing)}.")
            found, left = {}, MAX_BYTES
            for name in inside if wanted is None else wanted:
                with archive.open(inside[name]) as packed:
                    raw = packed.read(left + 1)
                left -= len(raw)
                if left < 0:
                    raise BadBundle(f"{path.name} is too large when unpacked.")
                found[name] = raw.decode("utf-8-sig")
            return found
    except (*NO_ZIP, UnicodeDecodeError) as problem:
        raise BadBundle(f"{path.name} cannot be read as a bundle: {problem}.") from None


def read_bundle(path: Path, reference: Reference, now: datetime | None = None) -> Bundle:
    """Read a folder or zip. Everything passes the limits of the forms; `now`: nothing may lie after it.

    Raises BadBundle naming file, row and what is wrong.
    """
    return bundle_from(_open(path), reference, now)


def bundle_from(files: Mapping[str, str], reference: Reference, now: datetime | None = None) -> Bundle:
    """A bundle from the texts of its two files. Raises BadBundle naming file, row and what is wrong."""
    try:
        return _bundle_from(files, reference, now)
    except (OverflowError, RecursionError):
        raise BadBundle("A number in it is far too large, or it is nested far too deep.") from None


def _bundle_from(files: Mapping[str, str], reference: Reference, now: datetime | None) -> Bundle:
    try:
        told = TankFile.model_validate_json(files["tank.json"])
        tank = from_spec(told.tank)
        check_limits(tank, reference)
        own = {cells.get("key", ""): cells for cells in told.species}
        known = Bundle(tank, (), (), own).known(reference.species)
        batches = tuple(_batch(b, k, known) for k, b in enumerate(told.batches, 1))
        setting = setting_for(tank, known)
        if told.zone:
            _zone(told.zone)
    except ValidationError as problem:
        first = problem.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise BadBundle(f"tank.json, {where or 'file'}: {first['msg']}.") from None
    except Refused as problem:
        raise BadBundle(f"tank.json, {problem.field or 'tank'}: {problem.sentence}") from None
    except BadData as problem:
        raise BadBundle(f"tank.json: {problem.sentence}") from None
    entries = _entries(files["log.csv"], setting, now)
    came = Log.of(entries).kinds(Arrival)
    by_batch = {e.body.batch: e.day for e in came if e.body.batch is not None}
    arrived = tuple(replace(b, arrived=by_batch.get(b.id)) for b in batches)
    return Bundle(tank, entries, arrived, own, told.zone)


def _batch(told: BatchFile, number: int, species: Mapping[str, Species]) -> Batch:
    for item in told.items:
        if item.species not in species:
            raise Refused(f"“{item.species[:60]}” is not in the catalogue.", f"batches.{number}")
    items = tuple(Animals(i.species, i.count, i.length_cm) for i in told.items)
    return Batch(told.id or number, told.name, told.planned, items, locked=told.locked)


def setting_for(tank: Tank, species: Mapping[str, Species]) -> Setting:
    """What a row needs to know of the tank. Raises Refused when its litres cannot be told."""
    return Setting(net_l(tank), tank.kit, Units(), species, {}, tank.solution_percent)


def _entries(text: str, setting: Setting, now: datetime | None) -> tuple[Entry, ...]:
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
        if len(found) >= MAX_ROWS:
            raise BadBundle(f"{where}: more than {MAX_ROWS:,} entries in one bundle.")
        cells = {k: (v or "").strip() for k, v in row.items()}
        try:
            entry = entry_from_cells(cells, row.get("note") or "", setting, len(found) + 1)
            if now is not None and entry.state == "live":
                check_not_future(entry.at, now)
            _refuse_twins(entry, cells.get("id", ""), seen, reader.line_num)
            found.append(entry)
        except Refused as problem:
            raise BadBundle(f"{where}, {problem.field or 'row'}: {problem.sentence}") from None
    return tuple(sorted(found, key=lambda e: (e.at, e.id)))


def _rows(reader: csv.DictReader[str]) -> Iterator[dict[str, Any]]:
    try:
        yield from reader
    except csv.Error as problem:
        raise BadBundle(f"log.csv row {reader.line_num + 1}: {problem}.") from None


def _refuse_twins(entry: Entry, told_id: str, seen: dict[object, int], row: int) -> None:
    """Two rows of one id, or a row without id that says the same as an earlier one: which was meant is not guessed."""
    key = told_id or repr((entry.at, entry.body, entry.note))
    if key in seen:
        what = f"id {told_id} stands in row {seen[key]} too" if told_id else f"it repeats row {seen[key]}"
        raise Refused(f"{what}; leave one out, or give both an id of their own.", "id")
    seen[key] = row


def _zone(name: str) -> ZoneInfo:
    try:
        return ZoneInfo(name or "UTC")
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise Refused(f"“{name[:40]}” is not a time zone.", "zone") from None


def _moment(text: str, zone: str, field: str = "when") -> datetime:
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise Refused(f"“{text[:40]}” is not a moment; write 2026-11-24T18:40.", field) from None
    if not EARLIEST <= at.year <= LATEST:
        raise Refused(f"{at.year} is not a year that a log can speak of.", field)
    known = _zone(zone)
    return at if at.tzinfo is not None else at.replace(tzinfo=known)


def _number_of(text: str, field: str) -> int:
    if not (text.isascii() and text.isdigit()) or not 0 < int(text[:20]) <= MOST_ID:
        raise Refused(f"“{text[:40]}” is not a number of an entry.", field)
    return int(text)


def entry_from_cells(c: Mapping[str, str], note: str, setting: Setting, number: int) -> Entry:
    """An entry from the cells of a row. Raises Refused naming the column or field."""
    if c["kind"] not in KINDS or c["kind"] == Damaged.key:
        raise Refused(f"“{c['kind'][:40]}” is no kind of entry.", "kind")
    state = c.get("state") or "live"
    if state not in STATES:
        raise Refused(f"“{state[:40]}” is no state.", "state")
    if len(note) > NOTE_MAX:
        raise Refused(f"This note is {len(note):,} characters long; at most {NOTE_MAX:,} can be kept.", "note")
    recorded = c.get("recorded_at", "")
    return Entry(
        _body(KINDS[c["kind"]], c, setting),
        _moment(c["when"], c.get("zone", "")),
        note,
        c.get("who", ""),
        c.get("zone") or "UTC",
        _number_of(c["id"], "id") if c.get("id") else number,
        state,
        _number_of(c["supersedes"], "supersedes") if c.get("supersedes") else None,
        _moment(recorded, "", "recorded_at") if recorded else None,
    )


def _body(kind: type[Kind], c: Mapping[str, str], setting: Setting) -> Kind:
    """From `detail` when it is there, else from the plain columns, which must be those of the kind."""
    if not c.get("detail"):
        strange = next((col for col in (*QUANTITIES, *PLAIN) if c.get(col) and col not in kind.columns()), None)
        if strange:
            raise Refused(f"“{c[strange][:40]}” does not belong to {kind.label.lower()}.", strange)
        return kind.from_plain(c, setting)
    try:
        detail = json.loads(c["detail"])
    except ValueError:
        raise Refused("This is not JSON.", "detail") from None
    if not isinstance(detail, dict):
        raise Refused("This is no object with ‘body’ and ‘readings’.", "detail")
    body: Kind = Tested.stored(detail.get("readings")) if kind is Tested else kind.from_json(detail.get("body"))
    _refuse_contradiction(body, c)
    return body.completed(setting) if isinstance(body, AboutAnimals) else body


def _refuse_contradiction(body: Kind, c: Mapping[str, str]) -> None:
    """A cell that says something else than `detail` was changed by hand, or stands in the wrong column."""
    told = {column: str(value) for column, value in body.plain().items()}
    for column in (*QUANTITIES, *PLAIN):
        cell = c.get(column, "")
        if cell and cell != told.get(column, "").strip() and not _same_number(cell, told.get(column, "")):
            said = f"‘detail’ says “{told[column][:40]}”" if told.get(column) else "‘detail’ says nothing of it"
            raise Refused(
                f"The cell says “{cell[:40]}”, {said}. Where a row was changed by hand, its ‘detail’ has to be empty.",
                column,
            )


def _same_number(one: str, other: str) -> bool:
    try:
        return float(one) == float(other)
    except ValueError:
        return False
