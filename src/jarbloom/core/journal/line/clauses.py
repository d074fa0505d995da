"""What can be said in a log line, clause by clause: deeds, animals, words."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Any

from jarbloom.core.animals.names import match_species, nearest_species, plural
from jarbloom.core.journal.complete import complete
from jarbloom.core.journal.kinds import DEVICES, ROCK, SIGNS
from jarbloom.core.journal.line.times import moment
from jarbloom.core.journal.line.tokens import Tokens
from jarbloom.core.journal.line.vocabulary import KEYWORDS, UNIT_WORDS, Ask
from jarbloom.core.water.ammonia import CHRONIC_STALL_TAN
from jarbloom.units import KG_PER_LB, NBSP, canonical, figure, number


class Clauses(Tokens):
    """One method for each keyword's kind, called when the keyword has been taken."""

    # --- deeds ---

    def _litres(self, what: str, allow_share: bool) -> tuple[float, str]:
        got = self._amount(what)
        assert got is not None
        text, unit = got
        value = number(text)
        dimension, canonical_unit = UNIT_WORDS.get(unit, ("volume", self.s.units.unit("volume")))
        if dimension == "share" and allow_share:
            if not 0 < value <= 100:
                raise Ask(f"{what} of {figure(value)} % is not between 0 and 100")
            return self.s.net_l * value / 100, f"{text} %"
        if dimension != "volume":
            raise Ask(f"{what} in “{unit}”? Use litres or gallons" + (" or %" if allow_share else ""))
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
            raise Ask(f"dose {text} of what? Say mg/l, g, ml or mg", self._with(text, f"{text} mg/l"))
        amount = number(text, low=0)
        canonical_unit = {"mg/l": "mg/L", "ppm": "mg/L"}.get(unit, UNIT_WORDS[unit][1])
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
            dimension, canonical_unit = UNIT_WORDS.get(unit, ("mass", "g"))
            if dimension != "mass":
                raise Ask(f"food in “{unit}”? Use g")
            body = {"grams": canonical(number(text, low=0), canonical_unit, "mass"), "typed": f"{text} {unit}"}
        value = f"{figure(body['grams'])}{NBSP}g" if body else "a usual ration"
        self._understood("feed", body, "fed", value)

    def _millilitres(self, what: str) -> dict[str, Any]:
        got = self._amount(what, optional=True)
        if got is None:
            return {}
        text, unit = got
        dimension, canonical_unit = UNIT_WORDS.get(unit, ("volume", "mL"))
        if dimension != "volume":
            raise Ask(f"{what} in “{unit}”? Use ml")
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
            raise Ask("media: rinsed how? Say media tank, media tap, media replaced or media dried")
        self.k += 1
        body: dict[str, Any] = {"how": how[token]}
        got = self._amount("media", optional=True)
        if got:
            if got[1] not in ("%", ""):
                raise Ask("media: the share is in %")
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
            raise Ask("bed: the share is in %")
        body = {"share": number(got[0], low=1, high=100)} if got else {}
        self._understood("bed", body, "bed stirred", f"{figure(body.get('share', 100))}{NBSP}% of it")

    def _power(self, _word: str) -> None:
        if self.k < len(self.tokens) and self.tokens[self.k].lower() in ("cut", "off"):
            self.k += 1
        token = self.tokens[self.k].lower() if self.k < len(self.tokens) else ""
        found = re.fullmatch(r"([\d.,]+)(h|hours?)?", token)
        if found is None:
            raise Ask("power cut: how many hours? Say power 6h")
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
            raise Ask(f"live rock in “{got[1]}”? Use kg")
        body: dict[str, Any] = {"kg": number(got[0], low=0.05) * (KG_PER_LB if got[1] == "lb" else 1.0)}
        token = self.tokens[self.k].lower() if self.k < len(self.tokens) else ""
        if token in dict(ROCK):
            body["condition"] = token
            self.k += 1
        self._understood("rock", body, "live rock", f"{figure(body['kg'])}{NBSP}kg")

    def _device(self, what: str) -> str:
        token = self.tokens[self.k].lower() if self.k < len(self.tokens) else ""
        if token not in dict(DEVICES):
            raise Ask(f"{what}: which of {', '.join(dict(DEVICES))}?")
        self.k += 1
        return token

    def _off(self, _word: str) -> None:
        body = {"device": self._device("off")}
        got = self._amount("off", optional=True)
        if got:
            if got[1] not in ("d", ""):
                raise Ask("off: for how many days? Say off uv 5d")
            back = (self.at or self.now) + timedelta(days=number(got[0], low=0, high=365))
            body["until"] = back.date().isoformat()
        until = f"until {body['until']}" if "until" in body else "say when it goes on again: off uv 5d"
        self._understood("off", body, "switched off", dict(DEVICES)[body["device"]], until)

    def _on(self, _word: str) -> None:
        device = self._device("on")
        self._understood("on", {"device": device}, "on again", dict(DEVICES)[device])

    # --- animals ---

    def _count_and_species(self, what: str, least: int = 1) -> tuple[int, str]:
        count = 1
        if self.k < len(self.tokens) and re.fullmatch(r"-?\d+", self.tokens[self.k]):
            count = int(self.tokens[self.k])
            self.k += 1
        if not least <= count <= 5000:
            raise Ask(f"{what}: {count} is no count of animals")
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
            raise Ask(f"{what}: which animal?")
        self.k -= len(taken) - 1
        near = nearest_species(" ".join(taken), self.s.species)
        ask = f"“{taken[0][:40]}” is not in the catalogue"
        if near:
            raise Ask(f"{ask}: did you mean {near}?", self._with(taken[0], near))
        raise Ask(f"{ask}; say unknown for an animal that is not listed")

    def _animals(self, kind: str, label: str, least: int = 1) -> None:
        count, key = self._count_and_species(label, least)
        name = plural(self.s.species[key].name, count)
        self._understood(kind, {"species": key, "count": count}, label, f"{count} {name}")

    def _arrival(self, _word: str) -> None:
        self._animals("arrival", "in")

    def _death(self, _word: str) -> None:
        self._animals("death", "found dead")

    def _birth(self, _word: str) -> None:
        self._animals("birth", "born")

    def _given(self, _word: str) -> None:
        self._animals("given", "given away")

    def _count(self, _word: str) -> None:
        self._animals("count", "counted", least=0)

    # --- words ---

    def _rest(self) -> str:
        rest = self.line[self.starts[self.k] :].strip() if self.k < len(self.tokens) else ""
        self.k = len(self.tokens)
        return rest

    def _observation(self, _word: str) -> None:
        text = self._rest()
        if not text:
            raise Ask("seen: what?")
        low = text.lower()
        hits = [key for key, said in SIGNS.items() if key.split("_")[0] in low or said.split()[0] in low]
        self._understood("observation", {"text": text, "signs": hits}, "seen", text[:60])

    def _note(self, _word: str) -> None:
        text = self._rest()
        if not text:
            raise Ask("note: what?")
        self._understood("note", {"text": text}, "note", text[:60])
