"""Bundles, houses and probe answers with bytes changed, cut, doubled and lied about: each gets a sentence, none a
traceback, and nothing of it is kept."""

from __future__ import annotations

import io
import json
import random
import resource
import tempfile
import zipfile
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from zoneinfo import ZoneInfo

from jarbloom.deeds import exchange
from jarbloom.deeds.desk import Desk
from jarbloom.devices.probe import understand
from jarbloom.errors import JarBloomError
from jarbloom.store import db

NOW = datetime(2026, 11, 24, 18, 40, tzinfo=ZoneInfo("Europe/Berlin"))
ODD = ("", "NaN", "1e999", "-1", "٣", "9" * 400, "null", "[]", "{}", '"', "\x00", "2026-13-45", "../../x", "=1+1", "😀")


@dataclass
class Told:
    tried: int = 0
    taken: int = 0
    refused: int = 0
    fell: list[str] = field(default_factory=list)  # anything but a sentence of ours
    half: int = 0

    @property
    def megabytes(self) -> int:
        return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024


def mutate_bundles(desk: Desk, whole: bytes, times: int, seed: int = 1) -> Told:
    """Each mutant is offered to a house of its own count: where it is refused, nothing may have been kept."""
    chance, told = random.Random(seed), Told()
    with tempfile.TemporaryDirectory() as holder:
        path = Path(holder) / "mutant.zip"
        for _ in range(times):
            path.write_bytes(_mutant(whole, chance))
            before = _rows(desk)
            told.tried += 1
            try:
                exchange.bring_in_any(desk, path)
                told.taken += 1
            except JarBloomError:
                told.refused += 1
                told.half += _rows(desk) != before
            except Exception as problem:
                told.fell.append(f"{type(problem).__name__}: {problem}"[:200])
    return told


def mutate_answers(times: int, seed: int = 1) -> Told:
    chance, told = random.Random(seed), Told()
    good = json.dumps({"at": NOW.isoformat(), "temp_c": 25.1, "ph": 7.6, "salinity_g_kg": None})
    for _ in range(times):
        told.tried += 1
        try:
            understand(_text(good, chance))
            told.taken += 1
        except JarBloomError:
            told.refused += 1
        except Exception as problem:
            told.fell.append(f"{type(problem).__name__}: {problem}"[:200])
    return told


def _rows(desk: Desk) -> tuple[int, ...]:
    return tuple(desk.conn.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in ("tank", "entry", "batch"))


def _mutant(whole: bytes, chance: random.Random) -> bytes:
    if chance.random() < 0.2:  # the archive itself
        return _bytes(whole, chance)
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as archive, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        names = archive.namelist()
        hit = chance.choice(names)
        for name in names:
            raw = archive.read(name)
            made.writestr(name, _changed(raw, chance) if name == hit else raw)
    return out.getvalue()


def _changed(raw: bytes, chance: random.Random) -> bytes:
    """A text changed as a text, a picture byte by byte."""
    try:
        return _text(raw.decode("utf-8"), chance).encode("utf-8")
    except UnicodeDecodeError:
        return _bytes(raw, chance)


def _bytes(whole: bytes, chance: random.Random) -> bytes:
    raw = bytearray(whole)
    for _ in range(chance.randint(1, 6)):
        raw[chance.randrange(len(raw))] = chance.randrange(256)
    return bytes(raw[: chance.randrange(len(raw))] if chance.random() < 0.3 else raw)


def _text(text: str, chance: random.Random) -> str:
    for _ in range(chance.randint(1, 3)):
        at, way = chance.randrange(len(text) + 1), chance.randrange(5)
        if way == 0:
            text = text[:at] + chance.choice(ODD) + text[at:]
        elif way == 1:
            text = text[:at] + text[min(at + chance.randint(1, 30), len(text)) :]
        elif way == 2:
            text = text[:at] + text[max(at - chance.randint(1, 200), 0) :]
        elif way == 3:  # a cell or a value
            parts = text.split(",")
            parts[chance.randrange(len(parts))] = chance.choice(ODD)
            text = ",".join(parts)
        else:
            digits = [k for k, c in enumerate(text) if c.isdigit()]
            if digits:
                k = chance.choice(digits)
                text = text[:k] + chance.choice("0123456789-.e") + text[k + 1 :]
    return text


def empty_desk(folder: Path) -> Desk:
    return Desk(db.connect(db.open_store(folder)), NOW)
