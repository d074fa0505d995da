"""One line of log shorthand to entries: `yesterday 19:30 am .25 ni 1 wc 30% dead 1 rasbora`.

Save never waits for a clean parse: what is understood becomes drafts, the rest comes back as questions
with the text that is still open.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from jarbloom.core.animals.names import match_species, nearest_species
from jarbloom.core.log.complete import Setting, complete
from jarbloom.core.log.kinds import DEVICES, NOTE_MAX, ROCK, SIGNS, clean_body, plural
from jarbloom.core.log.readings import LABELS, MASKED, interval_text, read
from jarbloom.core.log.times import check_not_future, moment
from jarbloom.core.model import Reading
from jarbloom.core.water.ammonia import CHRONIC_STALL_TAN
from jarbloom.errors import Refused
from jarbloom.units import KG_PER_LB, NBSP, canonical, figure, number

WORDS: Mapping[str, tuple[str, ...]] = {
    "ammonia": ("am", "ammonia", "nh3", "nh4", "tan"),
    "nitrite": ("ni", "nitrite", "no2"),
    "nitrate": ("na", "nitrate", "no3"),
    "ph": ("ph",),
    "kh": ("kh", "dkh"),
    "temp": ("t", "temp", "temperature"),
    "salinity": ("sal", "salinity"),
    "change": ("wc", "change", "changed"),
    "dose": ("dose", "dosed"),
    "feed": ("fed", "feed", "food"),
    "topoff": ("top", "topoff", "top-off", "topup"),
    "conditioner": ("cond", "conditioner", "dechlorinator", "detox", "detoxifier"),
    "bacteria": ("bac", "bacteria", "bottle", "culture"),
    "media": ("media", "filter", "rinse", "rinsed"),
    "bed": ("bed", "stirred", "gravel"),
    "power": ("power", "outage", "blackout"),
    "rock": ("rock", "liverock"),
    "off": ("off",),
    "on": ("on",),
    "arrival": ("in", "arrived", "added"),
    "death": ("dead", "died", "death"),
    "observation": ("saw", "seen", "obs"),
    "note": ("note",),
}
KEYWORDS = {word: kind for kind, words in WORDS.items() for word in words}
GLYPHS = {"change": "water", "topoff": "water", "dose": "drop", "arrival": "fish", "death": "fish_struck"}
_AMOUNT = re.compile(r"^([<>]?[\d.,]*\d[\d.,]*(?:(?:-|–)[\d.,]*\d)?)(%|[a-zA-Z°µ/]+)?$")
_UNIT_WORDS = {
    "l": ("volume", "L"),
    "litre": ("volume", "L"),
    "litres": ("volume", "L"),
    "liter": ("volume", "L"),
    "liters": ("volume", "L"),
    "gal": ("volume", "gal"),
    "gallon": ("volume", "gal"),
    "gallons": ("volume", "gal"),
    "ml": ("volume", "mL"),
    "c": ("temp", "°C"),
    "°c": ("temp", "°C"),
    "f": ("temp", "°F"),
    "°f": ("temp", "°F"),
    "g": ("mass", "g"),
    "mg": ("mass", "mg"),
    "oz": ("mass", "oz"),
    "kg": ("weight", "kg"),
    "lb": ("weight", "lb"),
    "sg": ("salinity", "sg"),
    "g/kg": ("salinity", "g/kg"),
    "ppt": ("salinity", "g/kg"),
    "psu": ("salinity", "g/kg"),
    "d": ("days", "d"),
    "cm": ("length", "cm"),
    "in": ("length", "in"),
    "mm": ("length", "mm"),
    "%": ("share", "%"),
    "mg/l": ("dose", "mg/L"),
    "ppm": ("dose", "mg/L"),
}
_LOOKALIKE = str.maketrans({"o": "0", "O": "0", "l": "1", "I": "1", "i": "1", "S": "5", "s": "5", "B": "8"})


@dataclass(frozen=True)
class Draft:
    """An entry about to be saved."""

    kind: str
    body: dict[str, Any] = field(default_factory=dict)
    readings: tuple[Reading, ...] = ()


@dataclass(frozen=True)
class Chip:
    """What one piece of the line was taken for, or a question about it. `fix` is the line corrected."""

    ok: bool
    glyph: str
    label: str
    value: str = ""
    detail: str = ""
    fix: str = ""


@dataclass(frozen=True)
class Parsed:
    at: datetime
    drafts: tuple[Draft, ...]
    chips: tuple[Chip, ...]
    leftover: str


class _Ask(Exception):
    """A question to the keeper about the piece being read."""

    def __init__(self, label: str, fix: str = "") -> None:
        super().__init__(label)
        self.label, self.fix = label, fix


def parse(line: str, now: datetime, setting: Setting) -> Parsed:
    """Read one line. Never raises for what a keeper may type."""
    if len(line) > NOTE_MAX:
        ask = f"This is {len(line):,} characters long; at most {NOTE_MAX:,} can be kept."
        return Parsed(now, (), (Chip(False, "ask", ask),), line)
    return _Reader(line, now, setting).run()


def _believed(reading: Reading) -> str:
    return "kept, not believed" if reading.masked else interval_text(reading)


class _Reader:
    def __init__(self, line: str, now: datetime, setting: Setting) -> None:
        self.line, self.now, self.s = line, now, setting
        pieces = [(m[0].rstrip(","), m.start()) for m in re.finditer(r"[^\s;·]+", line) if m[0] != ","]
        self.tokens = [text for text, _ in pieces]
        self.starts = [start for _, start in pieces]
        self.k = 0
        self.time_in_doubt = False
        self.at: datetime | None = None
        self.drafts: list[Draft] = []
        self.readings: dict[str, Reading] = {}
        self.chips: list[Chip] = []
        self.left: list[str] = []

    def run(self) -> Parsed:
        while self.k < len(self.tokens):
            start = self.k
            try:
                if not self._moment() and not self._clause():
                    raise _Ask(*self._unknown(self.tokens[self.k]))
            except (_Ask, Refused) as ask:
                self.k = max(self.k, start + 1)
                piece = self.tokens[start : self.k]
                label = ask.label if isinstance(ask, _Ask) else ask.sentence
                self.chips.append(Chip(False, "ask", label, fix=getattr(ask, "fix", "")))
                self.left += piece
        if self.time_in_doubt:
            # A wrong time would put true readings into the wrong place of the record: nothing is taken.
            return Parsed(self.now, (), tuple(c for c in self.chips if not c.ok), self.line)
        if self.readings:
            self.drafts.insert(0, Draft("test", readings=tuple(self.readings.values())))
        if self.at is not None and self.left:
            self.left.insert(0, f"{self.at:%Y-%m-%d %H:%M}")
        return Parsed(self.at or self.now, tuple(self.drafts), tuple(self.chips), " ".join(self.left))

    # --- pieces ---

    def _moment(self) -> bool:
        try:
            found = moment(self.tokens[self.k :], self.now)
            if found is None:
                return False
            self.k += found.used
            if self.at is not None:
                raise _Ask("a second time in one line: log it on a line of its own")
            check_not_future(found.at, self.now)
        except (Refused, _Ask):
            self.time_in_doubt = True
            raise
        self.at = found.at
        self.chips.append(Chip(True, "clock", "when", f"{found.at:%a %-d %b %H:%M}"))
        return True

    def _clause(self) -> bool:
        kind = KEYWORDS.get(self.tokens[self.k].lower().rstrip(":="))
        if kind is None:
            return self._glued()
        word = self.tokens[self.k]
        self.k += 1
        if kind in LABELS:
            self._reading(kind)
        else:
            getattr(self, f"_{kind}")(word.lower())
        return True

    def _glued(self) -> bool:
        """'am.25' and 'ph7.6': a keyword run together with its number."""
        found = re.match(r"^([A-Za-z]+)[:=]?([<>]?[.\d].*)$", self.tokens[self.k])
        if found and KEYWORDS.get(found[1].lower()) in LABELS:
            self.tokens[self.k : self.k + 1] = [found[1], found[2]]
            self.starts.insert(self.k, self.starts[self.k])
            return self._clause()
        return False

    def _unknown(self, token: str) -> tuple[str, str]:
        self.k += 1
        while self.k < len(self.tokens) and _AMOUNT.match(self.tokens[self.k]):
            self.k += 1
        near = difflib.get_close_matches(token.lower(), KEYWORDS, n=1, cutoff=0.6)
        if near:
            return f"“{token[:40]}”: did you mean {near[0]}?", self._with(token, near[0])
        return f"“{token[:40]}” is not understood", ""

    def _with(self, old: str, new: str) -> str:
        return re.sub(rf"(?<!\S){re.escape(old)}(?!\S)", new, self.line, count=1)

    def _amount(self, what: str, *, optional: bool = False) -> tuple[str, str] | None:
        """The next token as (number text, unit word), taking a unit that stands apart too."""
        found = _AMOUNT.match(self.tokens[self.k]) if self.k < len(self.tokens) else None
        if found is None:
            if optional:
                return None
            self._no_number(what)
        assert found is not None
        self.k += 1
        unit = (found[2] or "").lower()
        if not unit and self.k < len(self.tokens) and self.tokens[self.k].lower() in _UNIT_WORDS:
            # 'in' and 't', 'c' are also words of the log: only take a unit that is not followed by a number
            following = self.tokens[self.k + 1] if self.k + 1 < len(self.tokens) else ""
            token = self.tokens[self.k].lower()
            if token not in KEYWORDS or not _AMOUNT.match(following):
                unit = token
                self.k += 1
        if not unit and self._strange_unit():
            unit = self.tokens[self.k].lower()
            self.k += 1
        if unit and unit not in _UNIT_WORDS:
            fixed = found[0].translate(_LOOKALIKE)
            if fixed != found[0] and re.fullmatch(r"[\d.,]+", fixed):
                raise _Ask(f"{what} “{found[0]}”: did you mean {fixed}?", self._with(found[0], fixed))
            raise _Ask(f"{what} “{found[1]} {unit}”: the unit “{unit}” is not known")
        return found[1], unit

    def _strange_unit(self) -> bool:
        """A word behind a number that is neither of the log nor a time: 'am 1 ppb' must not be taken for 1 mg/L."""
        token = self.tokens[self.k] if self.k < len(self.tokens) else ""
        known = token.lower() in KEYWORDS or token.lower() in _UNIT_WORDS or token.lower() == MASKED
        if known or not re.fullmatch(r"[A-Za-z°µ/]+", token):
            return False
        return moment(self.tokens[self.k :], self.now) is None and not difflib.get_close_matches(
            token.lower(), KEYWORDS, n=1, cutoff=0.7
        )

    def _no_number(self, what: str) -> None:
        if self.k >= len(self.tokens):
            raise _Ask(f"{what}: how much?")
        token = self.tokens[self.k]
        if token.lower() in KEYWORDS:
            raise _Ask(f"{what}: how much?")
        self.k += 1
        if re.fullmatch(r"[-−][\d.,]+", token):
            raise _Ask(f"{what} “{token}” is below zero")
        fixed = token.translate(_LOOKALIKE)
        if re.fullmatch(r"[\d.,]+", fixed):
            raise _Ask(f"{what} “{token[:40]}”: did you mean {fixed}?", self._with(token, fixed))
        raise _Ask(f"{what} “{token[:40]}” is not a number")

    def _understood(self, kind: str, body: dict[str, Any], label: str, value: str, detail: str = "") -> None:
        self.drafts.append(Draft(kind, clean_body(kind, body)))
        self.chips.append(Chip(True, GLYPHS.get(kind, "note"), label, value, detail))

    # --- readings ---

    def _reading(self, quantity: str) -> None:
        got = self._amount(LABELS[quantity])
        assert got is not None
        text, unit = got
        dimension, canonical_unit = _UNIT_WORDS.get(unit, ("", ""))
        if quantity == "temp":
            if unit and dimension != "temp":
                raise _Ask(f"temperature in “{unit}”? Use C or F")
            temp_unit = canonical_unit or self.s.units.unit("temp")
        else:
            temp_unit = "°C"
            if quantity == "salinity" and (dimension == "salinity" or not unit):
                text = f"{text} {unit}".strip()
            elif unit and quantity not in ("ammonia", "nitrite", "nitrate"):
                raise _Ask(f"{LABELS[quantity]} in “{unit}”? Leave the unit out")
            elif unit and unit not in ("mg/l", "ppm"):
                raise _Ask(f"{LABELS[quantity]} in “{unit}”? Readings are in mg/L")
        if self.k < len(self.tokens) and self.tokens[self.k].lower() == MASKED:
            self.k += 1
            text += f" {MASKED}"
        reading = read(quantity, text, self.s.kit, temp_unit)
        if quantity in self.readings:
            raise _Ask(f"{LABELS[quantity]} stands twice in this line")
        self.readings[quantity] = reading
        suffix = f"{NBSP}{temp_unit}" if quantity == "temp" else ""
        self.chips.append(Chip(True, quantity, LABELS[quantity], text + suffix, _believed(reading)))

    # --- deeds ---

    def _litres(self, what: str, allow_share: bool) -> tuple[float, str]:
        got = self._amount(what)
        assert got is not None
        text, unit = got
        value = number(text)
        dimension, canonical_unit = _UNIT_WORDS.get(unit, ("volume", self.s.units.unit("volume")))
        if dimension == "share" and allow_share:
            if not 0 < value <= 100:
                raise _Ask(f"{what} of {figure(value)} % is not between 0 and 100")
            return self.s.net_l * value / 100, f"{text} %"
        if dimension != "volume":
            raise _Ask(f"{what} in “{unit}”? Use litres or gallons" + (" or %" if allow_share else ""))
        return canonical(value, canonical_unit, "volume"), f"{text} {canonical_unit}"

    def _change(self, _word: str) -> None:
        litres, typed = self._litres("water change", True)
        body = complete("change", {"litres": litres, "typed": typed}, self.s)
        share = f"{100 * body['fraction']:.0f}{NBSP}%"
        self._understood("change", body, "water change", self.s.units.volume(litres), share)

    def _topoff(self, _word: str) -> None:
        litres, typed = self._litres("top-off", False)
        body = complete("topoff", {"litres": litres, "typed": typed}, self.s)
        self._understood("topoff", body, "top-off", self.s.units.volume(litres))

    def _dose(self, _word: str) -> None:
        got = self._amount("dose")
        assert got is not None
        text, unit = got
        if not unit:
            raise _Ask(f"dose {text} of what? Say mg/l, g, ml or mg", self._with(text, f"{text} mg/l"))
        amount = number(text, low=0)
        canonical_unit = {"mg/l": "mg/L", "ppm": "mg/L"}.get(unit, _UNIT_WORDS[unit][1])
        body = complete("dose", {"amount": amount, "unit": canonical_unit}, self.s)
        rise = body["mg_n"] / self.s.net_l
        detail = f"rises {figure(rise, 2)}{NBSP}mg/L" + (
            f", above {figure(CHRONIC_STALL_TAN)} stalls nitrite" if rise > CHRONIC_STALL_TAN else ""
        )
        self._understood("dose", body, "dose", f"{figure(body['mg_n'])}{NBSP}mg{NBSP}N", detail)

    def _feed(self, _word: str) -> None:
        got = self._amount("food", optional=True)
        body: dict[str, Any] = {}
        if got:
            text, unit = got
            dimension, canonical_unit = _UNIT_WORDS.get(unit, ("mass", "g"))
            if dimension != "mass":
                raise _Ask(f"food in “{unit}”? Use g")
            body = {"grams": canonical(number(text, low=0), canonical_unit, "mass"), "typed": f"{text} {unit}"}
        value = f"{figure(body['grams'])}{NBSP}g" if body else "a usual ration"
        self._understood("feed", body, "fed", value)

    def _millilitres(self, what: str) -> dict[str, Any]:
        got = self._amount(what, optional=True)
        if got is None:
            return {}
        text, unit = got
        dimension, canonical_unit = _UNIT_WORDS.get(unit, ("volume", "mL"))
        if dimension != "volume":
            raise _Ask(f"{what} in “{unit}”? Use ml")
        return {"ml": 1000 * canonical(number(text, low=0), canonical_unit, "volume"), "typed": f"{text} {unit}"}

    def _conditioner(self, word: str) -> None:
        body = self._millilitres("conditioner")
        value = f"{figure(body['ml'])}{NBSP}mL" if body else "amount not noted"
        detoxifies = word.startswith("detox")
        self._understood(
            "conditioner",
            body | {"detoxifies": detoxifies},
            "conditioner",
            value,
            "binds ammonia for a day or two" if detoxifies else "",
        )

    def _bacteria(self, _word: str) -> None:
        body = self._millilitres("bacteria")
        value = f"{figure(body['ml'])}{NBSP}mL" if body else "a bottle"
        self._understood("bacteria", body | {"source": "bottle"}, "bacteria", value, "alive or not is unknown")

    def _media(self, _word: str) -> None:
        how = {
            "tap": "tap",
            "tank": "tank_water",
            "replaced": "replaced",
            "new": "replaced",
            "dried": "dried",
            "dry": "dried",
        }
        token = self.tokens[self.k].lower() if self.k < len(self.tokens) else ""
        if token not in how:
            raise _Ask("media: rinsed how? Say media tank, media tap, media replaced or media dried")
        self.k += 1
        body: dict[str, Any] = {"how": how[token]}
        got = self._amount("media", optional=True)
        if got:
            if got[1] not in ("%", ""):
                raise _Ask("media: the share is in %")
            body["share"] = number(got[0], low=1, high=100)
        share = f"{figure(body['share'])}{NBSP}% of it" if "share" in body else ""
        label = {
            "tap": "rinsed under the tap",
            "tank_water": "rinsed in tank water",
            "replaced": "thrown away",
            "dried": "left dry",
        }[body["how"]]
        self._understood("media", body, "media", label, share)

    def _bed(self, _word: str) -> None:
        got = self._amount("bed", optional=True)
        if got and got[1] not in ("%", ""):
            raise _Ask("bed: the share is in %")
        body = {"share": number(got[0], low=1, high=100)} if got else {}
        self._understood("bed", body, "bed stirred", f"{figure(body.get('share', 100))}{NBSP}% of it")

    def _power(self, _word: str) -> None:
        if self.k < len(self.tokens) and self.tokens[self.k].lower() in ("cut", "off"):
            self.k += 1
        token = self.tokens[self.k].lower() if self.k < len(self.tokens) else ""
        found = re.fullmatch(r"([\d.,]+)(h|hours?)?", token)
        if found is None:
            raise _Ask("power cut: how many hours? Say power 6h")
        self.k += 1
        if not found[2] and self.k < len(self.tokens) and self.tokens[self.k].lower() in ("h", "hour", "hours"):
            self.k += 1
        body: dict[str, Any] = {"hours": number(found[1], low=0.1, high=336)}
        if self.k < len(self.tokens) and self.tokens[self.k].lower() in ("open", "closed"):
            body["where"] = self.tokens[self.k].lower()
            self.k += 1
        where = "filter open to the tank" if body.get("where") == "open" else "filter closed"
        self._understood("power", body, "power cut", f"{figure(body['hours'])}{NBSP}h", where)

    def _rock(self, _word: str) -> None:
        got = self._amount("live rock")
        assert got is not None
        if got[1] not in ("kg", "lb", ""):
            raise _Ask(f"live rock in “{got[1]}”? Use kg")
        body: dict[str, Any] = {"kg": number(got[0], low=0.05) * (KG_PER_LB if got[1] == "lb" else 1.0)}
        token = self.tokens[self.k].lower() if self.k < len(self.tokens) else ""
        if token in dict(ROCK):
            body["condition"] = token
            self.k += 1
        self._understood("rock", body, "live rock", f"{figure(body['kg'])}{NBSP}kg")

    def _device(self, what: str) -> str:
        token = self.tokens[self.k].lower() if self.k < len(self.tokens) else ""
        if token not in dict(DEVICES):
            raise _Ask(f"{what}: which of {', '.join(dict(DEVICES))}?")
        self.k += 1
        return token

    def _off(self, _word: str) -> None:
        body = {"device": self._device("off")}
        got = self._amount("off", optional=True)
        if got:
            if got[1] not in ("d", ""):
                raise _Ask("off: for how many days? Say off uv 5d")
            back = (self.at or self.now) + timedelta(days=number(got[0], low=0, high=365))
            body["until"] = back.date().isoformat()
        until = f"until {body['until']}" if "until" in body else "say when it goes on again: off uv 5d"
        self._understood("off", body, "switched off", dict(DEVICES)[body["device"]], until)

    def _on(self, _word: str) -> None:
        device = self._device("on")
        self._understood("on", {"device": device}, "on again", dict(DEVICES)[device])

    # --- animals ---

    def _count_and_species(self, what: str) -> tuple[int, str]:
        count = 1
        if self.k < len(self.tokens) and re.fullmatch(r"-?\d+", self.tokens[self.k]):
            count = int(self.tokens[self.k])
            self.k += 1
        if not 1 <= count <= 5000:
            raise _Ask(f"{what}: {count} is no count of animals")
        taken: list[str] = []
        while self.k < len(self.tokens) and len(taken) < 4:
            token = self.tokens[self.k]
            if taken and (token.lower() in KEYWORDS or moment([token], self.now)):
                break
            taken.append(token)
            self.k += 1
        for size in range(len(taken), 0, -1):
            key = match_species(" ".join(taken[:size]), self.s.species, self.s.living)
            if key:
                self.k -= len(taken) - size
                return count, key
        if not taken:
            raise _Ask(f"{what}: which animal?")
        self.k -= len(taken) - 1
        near = nearest_species(" ".join(taken), self.s.species)
        ask = f"“{taken[0][:40]}” is not in the catalogue"
        if near:
            raise _Ask(f"{ask}: did you mean {near}?", self._with(taken[0], near))
        raise _Ask(f"{ask}; say unknown for an animal that is not listed")

    def _animals(self, kind: str, label: str) -> None:
        count, key = self._count_and_species(label)
        name = plural(self.s.species[key].name, count)
        self._understood(kind, {"species": key, "count": count}, label, f"{count} {name}")

    def _arrival(self, _word: str) -> None:
        self._animals("arrival", "in")

    def _death(self, _word: str) -> None:
        self._animals("death", "found dead")

    # --- words ---

    def _rest(self) -> str:
        rest = self.line[self.starts[self.k] :].strip() if self.k < len(self.tokens) else ""
        self.k = len(self.tokens)
        return rest

    def _observation(self, _word: str) -> None:
        text = self._rest()
        if not text:
            raise _Ask("seen: what?")
        low = text.lower()
        hits = [key for key, said in SIGNS.items() if key.split("_")[0] in low or said.split()[0] in low]
        self._understood("observation", {"text": text, "signs": hits}, "seen", text[:60])

    def _note(self, _word: str) -> None:
        text = self._rest()
        if not text:
            raise _Ask("note: what?")
        self._understood("note", {"text": text}, "note", text[:60])
