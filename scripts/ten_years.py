"""A house with years of data, for the bench: tanks with some tens of thousands of entries, plausible and made up."""

from __future__ import annotations

import random
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path

from tests.make import tank, test_entry

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.model.entry import Entry
from jarbloom.store import journal, tanks
from jarbloom.store.db import connect, open_store, transaction

SPECIES = ("harlequin_rasbora", "neon_tetra", "kuhli_loach", "nerite_snail")


def house(folder: Path, now: datetime, years: float, n_tank: int = 4, a_day: float = 4.1) -> Path:
    """The data folder of a house whose tanks have so many entries a day each, over so many years."""
    path = open_store(folder)
    conn = connect(path)
    for k in range(n_tank):
        start = now - timedelta(days=365.25 * years)
        new = replace(tank(name=f"Room {k + 1}", kh_dkh=8.0), started=start.date())
        made = tanks.add(conn, new, now)
        entries = _life(random.Random(k), start, now, a_day)
        with transaction(conn):
            journal.write_all(conn, made.id, "import", f"Brought in {len(entries)} entries", entries, now)
    conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    conn.close()
    return path


def _life(chance: random.Random, start: datetime, now: datetime, a_day: float) -> list[Entry]:
    """A cycle, a settled stock, and then the round of feeding, tests, changes, a death and an arrival now and then."""

    def at(day: float, kind: str, **body: object) -> Entry:
        return Entry(KINDS[kind].from_raw(body), start + timedelta(days=day), zone="Europe/Berlin")

    days, found = (now - start).days, []
    for k in range(12):
        found.append(at(2.5 * k + 0.4, "dose", amount=216.0, unit="mg", mg_n=216.0))
    for k, species in enumerate(SPECIES):
        found.append(at(35 + 4 * k, "arrival", species=species, count=8))
    day = 50.0
    while day < days - 0.5:
        what = chance.random()
        if what < 0.62:
            found.append(at(day, "feed", grams=round(chance.uniform(0.1, 0.4), 2)))
        elif what < 0.80:
            typed = {"ammonia": "0", "nitrite": "0", "nitrate": chance.choice(("5", "10", "20"))}
            found.append(replace(test_entry(0, **typed), at=start + timedelta(days=day)))
        elif what < 0.97:
            found.append(at(day, "note", text=chance.choice(("trimmed", "wiped the glass", "all well"))))
        elif what < 0.99:
            found.append(at(day, "change", litres=round(chance.uniform(15, 35), 1)))
        elif what < 0.995:
            found.append(at(day, "arrival", species=chance.choice(SPECIES[:2]), count=2))
        else:
            found.append(at(day, "death", species=chance.choice(SPECIES[:2]), count=1, body="found"))
        day += chance.expovariate(a_day)
    return found
