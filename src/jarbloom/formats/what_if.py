"""What-ifs from a file: a list of named futures, each with lines of the log and batches. docs/formats.md."""

from __future__ import annotations

import json
from datetime import datetime
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from jarbloom.core.bloom.whatif import WhatIf
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Tank
from jarbloom.errors import BadBundle, Refused
from jarbloom.formats.bundle import BatchFile
from jarbloom.formats.log_rows import COLUMNS, entry_from_cells, setting_for


class WhatIfFile(BaseModel):
    model_config = ConfigDict(extra="forbid")
    name: str = Field(min_length=1, max_length=200)
    entries: list[dict[str, Any]] = []
    batches: list[BatchFile] = []


class WhatIfsFile(BaseModel):
    """The whole file."""

    model_config = ConfigDict(extra="forbid")
    what_ifs: list[WhatIfFile] = Field(min_length=1, max_length=20)


def read_what_ifs(path: Path, tank: Tank, species: dict[str, Species], as_of: datetime) -> tuple[WhatIf, ...]:
    """Futures for this tank. Raises BadBundle naming the what-if, the entry and the field."""
    try:
        told = WhatIfsFile.model_validate(json.loads(path.read_text("utf-8-sig")))
    except FileNotFoundError:
        raise BadBundle(f"{path} is not there.") from None
    except ValidationError as problem:
        first = problem.errors()[0]
        raise BadBundle(f"{path.name}, {'.'.join(str(p) for p in first['loc'])}: {first['msg']}.") from None
    except (ValueError, OSError) as problem:
        raise BadBundle(f"{path.name} cannot be read: {problem}.") from None
    setting, found = setting_for(tank, species), []
    for one in told.what_ifs:
        entries = []
        for k, row in enumerate(one.entries, 1):
            where = f"{path.name}, ‘{one.name}’, entry {k}"
            odd = set(row) - set(COLUMNS)
            if odd:
                raise BadBundle(f"{where}: ‘{sorted(odd)[0]}’ is not known.")
            try:
                entry = entry_from_cells(
                    {"when": "", "kind": ""} | {c: _cell(v) for c, v in row.items()}, "", setting, k
                )
            except Refused as problem:
                raise BadBundle(f"{where}, {problem.field or 'row'}: {problem.sentence}") from None
            if entry.at <= as_of:
                raise BadBundle(f"{where}, when: {entry.at.isoformat()} does not lie after {as_of.isoformat()}.")
            if entry.kind == "test":
                raise BadBundle(f"{where}, kind: a reading cannot be foretold; say what would be done.")
            entries.append(entry)
        batches = tuple(
            Batch(-k, b.name, b.planned, tuple(Animals(i.species, i.count, i.length_cm) for i in b.items))
            for k, b in enumerate(one.batches, 1)
        )
        found.append(WhatIf(one.name, tuple(entries), batches))
    return tuple(found)


def _cell(value: Any) -> str:
    return "" if value is None else str(value).strip()
