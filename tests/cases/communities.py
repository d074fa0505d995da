"""Communities and pairs with the verdict that practice gives for these animals together in this tank: communities.json
(160, written apart from the code) and pairs.txt (ours). The water is the middle of what all of them bear."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from jarbloom.core.animals import compatibility
from jarbloom.core.animals.home import Home
from jarbloom.core.animals.names import match_species
from jarbloom.core.model.species import Animals, Species
from jarbloom.units import Units
from tests.make import REFERENCE

HERE = Path(__file__).parent
STEPS = ("fine", "watch", "later", "apart")
TODAY = date(2026, 11, 24)
NOT_OF_COMPANY = ("flow", "sexes")  # of a filter that a case does not name, and of what is asked in the shop


@dataclass(frozen=True)
class Community:
    name: str
    animals: tuple[Animals, ...]
    litres: float
    length_cm: float
    verdict: str

    def told(self) -> str:
        kinds = [REFERENCE.species[a.species] for a in self.animals]
        home = Home("x", self.litres, self.length_cm, None, _middle(kinds, "temp"), _middle(kinds, "ph"), None,
                    _middle(kinds, "salt"), 0.0, True, False, date(2024, 1, 1))  # fmt: skip
        case = compatibility.case_of(home, self.animals, REFERENCE.species, TODAY, Units())
        found = [f for f in compatibility.findings(case) if f.severity != "note" and f.key not in NOT_OF_COMPANY]
        apart = [f for f in found if f.severity == "apart"]
        if apart:
            return "apart" if any(f.on is None for f in apart) else "later"
        return "watch" if found else "fine"

    @property
    def off(self) -> int:
        """Steps that the rules are milder (below 0) or stricter than practice."""
        return STEPS.index(self.told()) - STEPS.index(self.verdict)


def _middle(kinds: list[Species], what: str) -> float:
    low, high = max(getattr(k, f"{what}_low") for k in kinds), min(getattr(k, f"{what}_high") for k in kinds)
    return (low + high) / 2


def communities() -> Iterator[Community]:
    by_name = {k.scientific.lower(): k.key for k in REFERENCE.species.values()}
    for raw in json.loads((HERE / "communities.json").read_text("utf-8")):
        animals = []
        for (name, count, *cm), latin in zip(raw["animals"], raw["latin"], strict=True):
            key = by_name.get(latin.lower()) or match_species(name, REFERENCE.species)
            assert key is not None, name
            animals.append(Animals(key, count, cm[0] if cm else None))
        yield Community(raw["id"], tuple(animals), raw["litres"], raw["length_cm"], raw["verdict"])


def pairs() -> Iterator[Community]:
    for line in (HERE / "pairs.txt").read_text("utf-8").splitlines():
        if not line or line.startswith("#"):
            continue
        who, size, verdict = (part.strip() for part in line.split("|"))
        animals = [Animals(key, int(n)) for n, key in (a.split() for a in who.split(","))]
        litres, length = map(float, size.split("/"))
        yield Community(who, tuple(animals), litres, length, verdict)
