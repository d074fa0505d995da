"""What a row of old notes becomes: a test, a change, food, a note, or what the keeper's own words stand for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, time, tzinfo

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.field import NOTE_MAX
from jarbloom.core.journal.kinds.measured import Measured
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.old_notes.days import read_day, read_time
from jarbloom.core.journal.old_notes.meaning import MEANINGS, Meaning
from jarbloom.core.journal.readings import read
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.kit import MG_PER_MG_N, NITROGEN, Reading
from jarbloom.errors import Refused
from jarbloom.patterns import regex
from jarbloom.units import CACO3_PER_DKH, canonical, figure

NOON = time(12)  # where no time of day was noted
NOTHING = {"", "-", "–", "—", "n/a", "na", "none", "x", "?", ".", "/"}
_AMOUNT = regex(r"([<>≤≥~]?)\s*(\d+(?:[.,]\d+)?|[.,]\d+)(?:\s*(?:-|–|to)\s*(\d+(?:[.,]\d+)?))?\s*(.*)")
_UNITS_OF = {
    "quantity": {"ppm", "mg/l", "mg", "mgl", "dkh", "°dh", "dh", "°", "deg", "sg", "g/kg", "ppt", "psu", ""},
    "measured": {"ppm", "mg/l", "mg", "dgh", "dh", "°dh", "us", "µs", ""},
}


@dataclass(frozen=True)
class Plan:
    """`columns`: the key of the meaning of each column; `order`: of day and month; `words`: lines of shorthand by own
    words, folded; '' means a plain note."""

    columns: tuple[str, ...]
    order: str
    words: Mapping[str, str] = field(default_factory=dict)

    @property
    def meanings(self) -> tuple[Meaning, ...]:
        return tuple(MEANINGS.get(k, MEANINGS["skip"]) for k in self.columns)

    def place(self, what: str) -> int | None:
        return next((k for k, m in enumerate(self.meanings) if m.what == what), None)


def folded(text: str) -> str:
    return " ".join(text.casefold().split())


def moment(row: Sequence[str], plan: Plan, zone: tzinfo | None) -> datetime:
    """When a row was. Raises Refused for one without a day."""
    day_at, time_at = plan.place("day"), plan.place("time")
    told = row[day_at] if day_at is not None else ""
    day = read_day(told, plan.order)
    if day is None:
        raise Refused(f"“{told[:40]}” is no day." if told else "There is no day in this row.", "day")
    at_time = read_time(row[time_at]) if time_at is not None else read_time(told)
    return datetime.combine(day, at_time or NOON, tzinfo=zone)


class Reader:
    """Reads rows by a plan; the same words are understood once."""

    def __init__(self, plan: Plan, setting: Setting, zone: tzinfo | None, now: datetime) -> None:
        self.plan, self.setting, self.zone, self.now = plan, setting, zone, now
        self._known: dict[str, tuple[Body, ...]] = {}

    def bodies(self, row: Sequence[str]) -> list[Body]:
        """Raises Refused naming the column by its number and saying what is wrong in it."""
        readings: list[Reading] = []
        measured: dict[str, float] = {}
        found: list[Body] = []
        for k, (meaning, cell) in enumerate(zip(self.plan.meanings, row, strict=False)):
            if meaning.what in ("skip", "day", "time") or cell.strip().lower() in NOTHING:
                continue
            try:
                if meaning.what == "quantity":
                    readings.append(self._reading(meaning, cell))
                elif meaning.what == "measured":
                    measured[meaning.key] = self._number(meaning, cell)
                elif meaning.what == "amount":
                    found.append(self._amount(meaning, cell))
                else:
                    found += self._words(cell, meaning.key == "words")
            except Refused as problem:
                raise Refused(f"{meaning.label}: {problem.sentence}", str(k)) from None
        if measured:
            found.insert(0, Measured.from_raw(measured))
        if readings:
            found.insert(0, Tested(readings=tuple(readings)))
        return found

    def _parts(self, meaning: Meaning, cell: str) -> tuple[str, float, float | None, str]:
        told = _AMOUNT.fullmatch(cell.strip().lower())
        if told is None:
            raise Refused(f"“{cell[:40]}” is no number.")
        sign = {"≤": "<", "≥": ">", "~": ""}.get(told[1], told[1])
        number = float(told[2].replace(",", "."))
        return sign, number, float(told[3].replace(",", ".")) if told[3] else None, told[4].strip(" .")

    def _reading(self, meaning: Meaning, cell: str) -> Reading:
        quantity = meaning.key.split(":")[0]
        sign, low, high, unit = self._parts(meaning, cell)
        temp_unit = meaning.unit if quantity == "temp" else "°C"
        if quantity == "temp" and unit.strip("° ") in ("c", "f"):
            temp_unit = f"°{unit.strip('° ').upper()}"  # a cell that says its own unit is believed
        elif unit not in _UNITS_OF["quantity"]:
            raise Refused(f"“{cell[:40]}” has a unit that does not belong here.")
        by = self._factor(quantity, meaning.unit)
        values = [figure(v * by, 4).replace("−", "-") if by != 1 else f"{v:g}" for v in (low, high) if v is not None]
        typed = sign + "-".join(values)
        if meaning.key == "salinity:sg":
            typed += " sg"
        return read(quantity, typed, self.setting.kit, temp_unit)

    def _factor(self, quantity: str, unit: str) -> float:
        if quantity in NITROGEN:
            return MG_PER_MG_N[self.setting.kit.scale(quantity).form] / MG_PER_MG_N[unit]
        return 1 / CACO3_PER_DKH if unit == "ppm" else 1.0

    def _number(self, meaning: Meaning, cell: str) -> float:
        _, low, high, unit = self._parts(meaning, cell)
        if unit not in _UNITS_OF["measured"]:
            raise Refused(f"“{cell[:40]}” has a unit that does not belong here.")
        return low if high is None else (low + high) / 2

    def _amount(self, meaning: Meaning, cell: str) -> Body:
        kind, unit = meaning.key.split(":")
        _, value, _, said = self._parts(meaning, cell)
        unit = {"l": "L", "liter": "L", "litres": "L", "liters": "L", "litre": "L", "gal": "gal", "gallons": "gal",
                "%": "%", "percent": "%", "g": "g", "": unit}.get(said, said)  # fmt: skip
        if kind == "feed":
            if unit != "g":
                raise Refused(f"“{cell[:40]}”: food counts in grams here.")
            return KINDS["feed"].from_raw({"grams": value}).completed(self.setting)
        if unit not in ("L", "gal", "%"):
            raise Refused(f"“{cell[:40]}” is neither litres, gallons nor percent.")
        litres = self.setting.net_l * value / 100 if unit == "%" else canonical(value, unit, "volume")
        raw = {"litres": litres} | ({"typed": f"{value:g} {unit}"} if kind == "change" else {})
        return KINDS[kind].from_raw(raw).completed(self.setting)

    def _words(self, cell: str, may_mean: bool) -> tuple[Body, ...]:
        key = f"{may_mean}:{folded(cell)}"
        if key not in self._known:
            self._known[key] = self._understood(cell, may_mean)
        return self._known[key]

    def _understood(self, cell: str, may_mean: bool) -> tuple[Body, ...]:
        note = (Note(text=cell[:NOTE_MAX]),)
        if not may_mean:
            return note
        line = self.plan.words.get(folded(cell), cell)
        if not line:
            return note
        try:
            parsed = parse(line, self.now, self.setting)
        except Refused:
            return note
        return tuple(parsed.bodies) if parsed.bodies and not parsed.questions else note


@dataclass(frozen=True)
class RowRead:
    """A row by its number in the table; what it becomes in words, or what is wrong with it."""

    number: int
    cells: tuple[str, ...]
    entries: tuple[Entry, ...]
    known: bool
    problem: str
    column: int | None = None


@dataclass(frozen=True)
class Preview:
    rows: tuple[RowRead, ...]
    unknown: tuple[tuple[str, int, str], ...]

    @property
    def new(self) -> list[Entry]:
        return [e for r in self.rows if not r.known for e in r.entries]

    @property
    def bad(self) -> list[RowRead]:
        return [r for r in self.rows if r.problem]

    @property
    def known(self) -> int:
        return sum(r.known for r in self.rows)


def own_words(rows: Sequence[Sequence[str]], plan: Plan, reader: Reader, most: int = 12) -> list[tuple[str, int, str]]:
    """Own words that stand in the column of what was done and are not understood: as written, how often, and what the
    keeper has said they mean; the most frequent first."""
    place = plan.place("words")
    if place is None or plan.columns[place] != "words":
        return []
    counts: dict[str, list[str]] = {}
    for row in rows:
        if len(row) > place and row[place].strip().lower() not in NOTHING:
            counts.setdefault(folded(row[place]), []).append(row[place])
    plain = Plan(plan.columns, plan.order)
    unknown = Reader(plain, reader.setting, reader.zone, reader.now)
    open_ones = [
        (texts[0], len(texts), plan.words.get(key, "")) for key, texts in counts.items()
        if isinstance(unknown._words(texts[0], True)[0], Note)
    ]  # fmt: skip
    return sorted(open_ones, key=lambda o: -o[1])[:most]
