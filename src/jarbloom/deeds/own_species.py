"""A keeper's own species: like one of the catalogue but with other numbers, or brought in as a CSV."""

from __future__ import annotations

import csv
import hashlib
import io
import re
from collections.abc import Mapping

from jarbloom.core.model.species import OWN_KEY, Species
from jarbloom.data.species_rows import COLUMNS, cells_of, check_cells
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.store import own_species
from jarbloom.store.db import transaction
from jarbloom.store.own_species import OwnRow

MOST_ROWS = 2000


def own_row(desk: Desk, key: str) -> OwnRow:
    found = next((r for r in own_species.rows(desk.conn) if r.key == key), None)
    if found is None:
        raise NotFound("That is not one of your own species.")
    return found


def newest_revision(desk: Desk, key: str) -> int:
    return own_species.newest_revision(desk.conn, key)


def cells_at(desk: Desk, key: str, revision: int) -> dict[str, str] | None:
    return own_species.cells_at(desk.conn, key, revision)


def start_from(desk: Desk, like: str) -> dict[str, str]:
    """Cells to begin with: those of a species that it is like, without its names and without its second check."""
    kind = desk.reference.species.get(like, desk.reference.species["unknown"])
    without = dict.fromkeys(("key", "name", "scientific", "synonyms", "checked"), "")
    return cells_of(kind) | without | {"confidence": "low"}


def _key_for(name: str) -> str:
    """From the letters and digits of a name; from a hash of it where it has none of ours (another script)."""
    slug = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")[:60]
    return OWN_KEY + (slug or hashlib.sha256(name.encode()).hexdigest()[:12])


def keep(desk: Desk, key: str, cells: Mapping[str, str]) -> tuple[str, dict[str, str]]:
    """Save a row: its key, and what is wrong by field (nothing is saved then). `key` empty: a new one."""
    name = cells.get("name", "").strip()
    made = key or _key_for(name)
    row = {c: cells.get(c, "").strip() for c in COLUMNS} | {"key": made, "name": name}
    species, wrong = check_cells(row)
    if not name:
        wrong["name"] = "Give it a name."
    else:
        clash = _same_name(desk, name, made)
        if clash:
            wrong["name"] = clash
        elif not key and made in {r.key for r in own_species.rows(desk.conn)}:
            wrong["name"] = "One of your own species has this name, or one that differs only in signs."
    if species is None or wrong:
        return "", wrong
    with transaction(desk.conn):
        own_species.save(desk.conn, made, row, desk.now)
    return made, {}


def _same_name(desk: Desk, name: str, key: str) -> str:
    """Names tell species apart in the log line, so each stands once."""
    for other in desk.reference.species.values():
        if other.key != key and other.name.lower() == name.lower():
            whose = "your own species" if other.key.startswith(OWN_KEY) else "the catalogue"
            return f"“{name}” is in {whose} already; give yours another name."
    return ""


def remove(desk: Desk, key: str) -> None:
    """Off the lists; entries and plans that name it keep it."""
    own_row(desk, key)
    with transaction(desk.conn):
        own_species.remove(desk.conn, key, desk.now)


def restore(desk: Desk, key: str) -> None:
    own_row(desk, key)
    with transaction(desk.conn):
        own_species.remove(desk.conn, key, None)


def bring_in(desk: Desk, text: str) -> int:
    """Rows of a CSV with the catalogue's columns. `like` may name a species whose cells fill the empty ones; missing
    columns are filled like those of an unknown fish. All or nothing: the first wrong or doubled row is named, and
    nothing is kept."""
    reader = csv.DictReader(io.StringIO(text.strip().removeprefix("\ufeff")))
    head = set(reader.fieldnames or ())
    if "name" not in head:
        raise Refused("The first line names the columns; ‘name’ is needed at least.", "csv")
    odd = sorted(head - set(COLUMNS) - {"like"})
    if odd:
        raise Refused(f"The column ‘{odd[0]}’ is not known.", "csv")
    ready: dict[str, tuple[int, dict[str, str]]] = {}
    kept = {r.key for r in own_species.rows(desk.conn)}
    for row in reader:
        where = f"Row {reader.line_num}"
        if None in row or None in row.values():
            raise Refused(f"{where} has not as many fields as the first line.", "csv")
        key, cells = _ready(desk, row, where)
        if key in ready:
            raise Refused(f"{where}: “{cells['name']}” stands in row {ready[key][0]} too; leave one out.", "csv")
        if key in kept:
            raise Refused(f"{where}: you have “{cells['name']}” already; change it on its own page.", "csv")
        ready[key] = (reader.line_num, cells)
        if len(ready) > MOST_ROWS:
            raise Refused(f"More than {MOST_ROWS:,} rows at once.", "csv")
    if not ready:
        raise Refused("There is no row below the first line.", "csv")
    with transaction(desk.conn):
        for key, (_, cells) in ready.items():
            own_species.save(desk.conn, key, cells, desk.now)
    return len(ready)


def _ready(desk: Desk, row: Mapping[str, str], where: str) -> tuple[str, dict[str, str]]:
    name, like = row["name"].strip(), (row.get("like") or "unknown").strip() or "unknown"
    if like not in desk.reference.species:
        raise Refused(f"{where}, like: “{like[:40]}” is not a key of the catalogue.", "csv")
    if not name:
        raise Refused(f"{where}, name: a name is needed.", "csv")
    key = _key_for(name)
    fills = bool((row.get("like") or "").strip())  # then an empty cell means: as that one
    told = {c: v.strip() for c, v in row.items() if c in COLUMNS and (v.strip() or not fills)}
    cells = start_from(desk, like) | told | {"key": key, "name": name}
    clash = _same_name(desk, name, key)
    if clash:
        raise Refused(f"{where}, name: {clash}", "csv")
    species, wrong = check_cells(cells)
    if species is None:
        field, text = next(iter(wrong.items()))
        raise Refused(f"{where}, {field}: {text}", "csv")
    return key, cells


def as_csv(desk: Desk) -> str:
    """The keeper's own species, to take along; reads back in by `bring_in`."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\n")
    writer.writeheader()
    writer.writerows(r.cells for r in own_species.rows(desk.conn) if not r.removed)
    return out.getvalue()


def own_of(desk: Desk) -> list[tuple[Species, bool]]:
    """The keeper's own species with whether they were taken off the list."""
    return [(desk.reference.species[r.key], r.removed) for r in own_species.rows(desk.conn)]
