"""The catalogue beside values that somebody else wrote down from the names alone: where the two differ by more than
practice does, field by field.

    python -m scripts.second_look FOLDER [FIELD]    CSV files whose columns are named as in their README
"""

from __future__ import annotations

import csv
import math
import sys
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from jarbloom.core.animals.bioload import mass_g
from jarbloom.core.model.species import Species
from jarbloom.data import catalogue

# How many times the other a value may be before it is more than practice differs by (judgement, by field)
TIMES = {"adult_cm": 1.3, "mass_g_adult": 1.6, "years_to_80pct": 1.8, "lifespan_y": 1.7, "min_l_cautious": 1.5,
         "min_l_experienced": 1.6, "min_length_cm": 1.35, "group_min": 1.7}  # fmt: skip
APART = {"temp_low": 2.1, "temp_high": 2.1, "ph_low": 0.6, "ph_high": 0.6, "gh_low": 5, "gh_high": 8, "salt_low": 2.5,
         "salt_high": 4}  # fmt: skip
SAME = {
    "ammonia_sensitivity": {"robust": "hardy"}, "hardiness": {}, "care": {}, "temperament": {
        "mild": "peaceful", "semi": "semi-peaceful", "predatory": "aggressive"},
    "tank_bred": {"sometimes": "partly", "rare": "wild mostly"}, "flow": {"gentle": "gentle", "general": "gentle"},
}  # fmt: skip
ZONES = {"surface": "top"}
EATEN = ("no", "young", "some", "all")  # how far it goes among invertebrates


def years_to_80pct(s: Species) -> float:
    """From shop size to 0.8 of the adult, by the growth curve of the row."""
    short = 1 - s.shop_cm / s.adult_cm
    return max(0.0, math.log(max(short, 0.2) / 0.2) / s.growth_k)


def eats_level(text: str) -> int:
    """0 nothing, 1 young or small ones, 2 shrimp or snails, 3 both."""
    if not text or text == "no":
        return 0
    if text == "all" or ("snails" in text and ("shrimp" in text or "crabs" in text)):
        return 3
    return 1 if text.startswith(("young", "small", "worms")) else 2


OWN: dict[str, Callable[[Species], float]] = {
    "mass_g_adult": lambda s: mass_g(s, s.adult_cm), "years_to_80pct": years_to_80pct,
}  # fmt: skip


@dataclass(frozen=True)
class Difference:
    key: str
    field: str
    ours: str
    theirs: str


def differences(s: Species, row: dict[str, str]) -> Iterator[Difference]:
    for name, most in TIMES.items():
        theirs = _number(row.get(name))
        ours = OWN[name](s) if name in OWN else float(getattr(s, name))
        if theirs and ours and max(theirs / ours, ours / theirs) > most:
            yield Difference(s.key, name, f"{ours:.3g}", f"{theirs:.3g}")
    for name, most in APART.items():
        theirs = _number(row.get(name))
        if theirs is not None and abs(theirs - getattr(s, name)) > most:
            yield Difference(s.key, name, f"{getattr(s, name):g}", f"{theirs:g}")
    for name, words in SAME.items():
        theirs_word, ours_word = row.get(name, ""), str(getattr(s, name))
        if theirs_word and words.get(theirs_word, theirs_word) != words.get(ours_word, ours_word):
            yield Difference(s.key, name, ours_word, theirs_word)
    for name in ("eats_plants", "digs", "nips_fins", "long_fins", "jumps", "nocturnal"):
        theirs_word = row.get(name, "")
        if theirs_word and (theirs_word != "no") != (getattr(s, name) not in (False, "no")):
            yield Difference(s.key, name, str(getattr(s, name)), theirs_word)
    spines = row.get("spines_or_venom", "")
    if spines and (spines != "no") != bool(s.spines):
        yield Difference(s.key, "spines", "yes" if s.spines else "no", spines)
    eaten = row.get("eats_invertebrates", "")
    if eaten and abs(eats_level(eaten) - eats_level(s.eats_invertebrates)) > (s.group != "fish"):
        yield Difference(s.key, "eats_invertebrates", s.eats_invertebrates or "no", eaten)
    zone, diet = ZONES.get(row.get("zone", ""), row.get("zone", "")), row.get("diet", "")
    if zone and zone not in (s.zone, "everywhere", "") and s.group == "fish":
        yield Difference(s.key, "zone", s.zone, zone)
    if diet and {"detritus": "detritivore"}.get(diet, diet) not in (s.diet, "light", "plankton"):
        yield Difference(s.key, "diet", s.diet, diet)
    mouth = _number(row.get("eats_fish_up_to_share_of_own_length"))
    if mouth is not None and s.group == "fish" and abs(mouth - s.mouth_ratio / 0.24) > 0.35:
        yield Difference(s.key, "mouth_ratio", f"{s.mouth_ratio:g}", f"{mouth:g} of its length")


def _number(text: str | None) -> float | None:
    try:
        return float(text or "")
    except ValueError:
        return None


def rows_of(folder: Path) -> Iterator[dict[str, str]]:
    for path in sorted(folder.glob("animals-*.csv")):
        with path.open(encoding="utf-8", newline="") as file:
            yield from csv.DictReader(file)


def main() -> None:
    ours, counted, compared = catalogue.species(), Counter[str](), 0
    wanted = sys.argv[2] if len(sys.argv) > 2 else ""
    for row in rows_of(Path(sys.argv[1])):
        if row["key"] not in ours:
            continue
        compared += 1
        for d in differences(ours[row["key"]], row):
            counted[d.field] += 1
            if wanted in ("", d.field):
                print(f"{d.key:28} {d.field:20} {d.ours:>16}   {d.theirs}")
    print(f"\n{compared} rows compared; differences: {', '.join(f'{f} {n}' for f, n in counted.most_common())}")


if __name__ == "__main__":
    main()
