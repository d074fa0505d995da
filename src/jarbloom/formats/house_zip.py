"""The whole house in one zip: `house.json`, and a bundle for every tank, those on the shelf too (docs/formats.md)."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date, datetime
from pathlib import Path
from typing import IO, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Instrument, Source, Water
from jarbloom.errors import BadBundle
from jarbloom.formats.bundle import NAMES, NO_ZIP, Bundle, bundle_from, files_of, unpacked
from jarbloom.formats.photo_pack import pack

FORMAT, VERSION = "jarbloom-house", 1
INDEX = "house.json"


class SourceFile(BaseModel):
    """What core/model/tank.py names a Source, within the limits of the form."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    ph: float = Field(default=7.6, ge=3, le=11)
    kh_dkh: float = Field(default=6, ge=0, le=60)
    ammonia_mg_n_l: float = Field(default=0, ge=0, le=20)
    nitrate_mg_n_l: float = Field(default=1, ge=0, le=200)
    cold_c: float = Field(default=12, ge=0, le=45)
    hot_c: float = Field(default=55, ge=0, le=100)
    gh_dgh: float | None = Field(default=None, ge=0, le=100)
    tds_mg_l: float | None = Field(default=None, ge=0, le=60_000)
    phosphate_mg_l: float | None = Field(default=None, ge=0, le=100)
    chlorine: Literal["none", "chlorine", "chloramine", "unknown"] = "unknown"
    chlorine_mg_l: float | None = Field(default=None, ge=0, le=20)
    name: str = Field(default="", max_length=80)


class WaterFile(BaseModel):
    model_config = ConfigDict(extra="forbid")
    name: str = Field(min_length=1, max_length=80)
    kind: Literal["tap", "ro", "rain", "well", "other"]
    source: SourceFile
    measured_on: date | None = None
    note: str = Field(default="", max_length=2000)


class InstrumentFile(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    name: str = Field(min_length=1, max_length=80)
    kind: Literal["refractometer", "hydrometer", "swing_arm", "conductivity"]
    calibrated_on: date | None = None
    calibrated_at_c: float = Field(ge=0, le=60)


class TankRow(BaseModel):
    model_config = ConfigDict(extra="forbid")
    folder: str = Field(pattern=r"^[a-z0-9-]{1,60}$")
    shelved: bool = False


class HouseFile(BaseModel):
    """house.json"""

    model_config = ConfigDict(extra="forbid")
    format: str = Field(pattern=f"^{FORMAT}$")
    version: int = Field(ge=1, le=VERSION)
    written: datetime | None = None
    tanks: list[TankRow] = Field(max_length=500)
    waters: list[WaterFile] = Field(default=[], max_length=200)
    instruments: list[InstrumentFile] = Field(default=[], max_length=200)


@dataclass(frozen=True)
class House:
    """Tanks with whether they stand on the shelf; waters and instruments."""

    tanks: tuple[tuple[Bundle, bool], ...]
    waters: tuple[Water, ...]
    instruments: tuple[Instrument, ...]


def house_zip(tanks: Mapping[str, tuple[Bundle, bool]], house: House, written: datetime, to: IO[bytes]) -> None:
    """`tanks`: by the name of its folder, a bundle and whether the tank stands on the shelf."""
    index = {
        "format": FORMAT,
        "version": VERSION,
        "written": written.isoformat(),
        "tanks": [{"folder": folder, "shelved": shelved} for folder, (_, shelved) in tanks.items()],
        "waters": [_plain(asdict(w), "id", "by_log") for w in house.waters],
        "instruments": [_plain(asdict(i), "id") for i in house.instruments],
    }
    with zipfile.ZipFile(to, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(INDEX, json.dumps(index, indent=2, ensure_ascii=False, allow_nan=False, default=str) + "\n")
        for folder, (bundle, _) in tanks.items():
            for name, text in files_of(bundle).items():
                archive.writestr(f"tanks/{folder}/{name}", text)
        pack(archive, {name: file for bundle, _ in tanks.values() for name, file in bundle.photos.items()})


def _plain(thing: dict[str, Any], *without: str) -> dict[str, Any]:
    return {k: v for k, v in thing.items() if k not in without}


def is_house(path: Path) -> bool:
    """Whether a zip holds a house, and not the bundle of one tank."""
    try:
        with zipfile.ZipFile(path) as archive:
            return INDEX in archive.namelist()
    except NO_ZIP:
        return False


def read_house(path: Path, reference: Reference, now: datetime | None = None) -> House:
    """Raises BadBundle naming the tank's folder, file, row, and what is wrong."""
    files = unpacked(path)
    if INDEX not in files:
        raise BadBundle(f"{path.name} holds no {INDEX}.")
    try:
        told = HouseFile.model_validate_json(files[INDEX])
        waters = tuple(
            Water(w.name, w.kind, Source(**w.source.model_dump()), w.measured_on, w.note) for w in told.waters
        )
    except ValidationError as problem:
        first = problem.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise BadBundle(f"{INDEX}, {where or 'file'}: {first['msg']}.") from None
    instruments = tuple(Instrument(i.name, i.kind, i.calibrated_on, i.calibrated_at_c) for i in told.instruments)
    found = []
    for row in told.tanks:
        texts = {name: files.get(f"tanks/{row.folder}/{name}") for name in NAMES}
        if None in texts.values():
            raise BadBundle(f"{path.name} holds no whole bundle of {row.folder}.")
        try:
            found.append((bundle_from({k: v or "" for k, v in texts.items()}, reference, now), row.shelved))
        except BadBundle as problem:
            raise BadBundle(f"tanks/{row.folder}, {problem.sentence}") from None
    return House(tuple(found), waters, instruments)
