"""A bundle: `tank.json` and `log.csv` in a folder or zip. Documented in docs/formats.md.

Writes whole journals (struck entries too) and reads them back equal; also reads logs written by hand or by
other programs, with only the plain columns filled.
"""

from __future__ import annotations

import json
import zipfile
import zlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from pathlib import Path
from typing import IO, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.model.tank_spec import from_spec, to_spec
from jarbloom.core.vessel.limits import check_limits
from jarbloom.data.species_rows import species_from
from jarbloom.errors import BadBundle, BadData, Refused
from jarbloom.formats.log_rows import entries_of, log_csv, setting_for, zone_of
from jarbloom.formats.photo_pack import copy_into, is_photo, pack
from jarbloom.units import MOST_HEADS

FORMAT, VERSION = "jarbloom-bundle", 1
MAX_BYTES = 200_000_000
MAX_FILES = 2_000  # beside the photos
NAMES = ("tank.json", "log.csv")
# All that a damaged archive may raise while it is opened and unpacked
NO_ZIP = (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError, OSError, ValueError)


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
            zone_of(told.zone)
    except ValidationError as problem:
        first = problem.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise BadBundle(f"tank.json, {where or 'file'}: {first['msg']}.") from None
    except Refused as problem:
        raise BadBundle(f"tank.json, {problem.field or 'tank'}: {problem.sentence}") from None
    except BadData as problem:
        raise BadBundle(f"tank.json: {problem.sentence}") from None
    entries = entries_of(files["log.csv"], setting, now)
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
