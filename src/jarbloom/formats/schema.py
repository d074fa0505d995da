"""JSON Schema of the open formats, made from what really reads them."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.damaged import Damaged
from jarbloom.core.model.kit import QUANTITIES
from jarbloom.core.model.tank import Tank
from jarbloom.formats.bundle import FORMAT, TankFile
from jarbloom.formats.log_rows import COLUMNS
from jarbloom.formats.what_if import WhatIfsFile

_OUTSIDE = ("id", "slug")  # where a tank is kept, not what it is


def schema() -> dict[str, Any]:
    """`tank.json` at the top; a row of `log.csv` and the what-if file under $defs."""
    top = TankFile.model_json_schema()
    tank = TypeAdapter(Tank).json_schema(ref_template="#/$defs/{model}")
    defs = tank.pop("$defs", {}) | top.pop("$defs", {})
    tank["properties"] = {k: v for k, v in tank["properties"].items() if k not in _OUTSIDE}
    tank["additionalProperties"] = False
    top["properties"]["tank"] = tank
    what_ifs = WhatIfsFile.model_json_schema(ref_template="#/$defs/{model}")
    defs |= what_ifs.pop("$defs", {})
    defs["log_row"] = {
        "title": "A row of log.csv",
        "type": "object",
        "required": ["when", "kind"],
        "additionalProperties": False,
        "properties": {c: {"type": "string"} for c in COLUMNS}
        | {
            "kind": {"enum": [k for k in KINDS if k != Damaged.key]},
            "state": {"enum": ["", "live", "superseded", "void"]},
        }
        | {q: {"type": "string", "description": "as the kit shows it"} for q in QUANTITIES},
    }
    defs["what_ifs"] = what_ifs
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"{FORMAT}: tank.json",
        **{k: v for k, v in top.items() if k != "title"},
        "$defs": defs,
    }
