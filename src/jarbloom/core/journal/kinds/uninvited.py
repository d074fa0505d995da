"""Animals that are there without having been invited: on plants, on rock, in a bag."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import choice_field, number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.units import Units

# What each is said to be stands in data/uninvited.toml; here their names and how a line calls them
UNINVITED: Mapping[str, tuple[str, tuple[str, ...]]] = {
    "snails": ("small snails", ("snail", "snails")),
    "thread_worms": ("thin white worms", ("worm", "worms")),
    "flatworms": ("flatworms", ("flatworm", "flatworms", "planaria")),
    "hydra": ("hydra", ("hydra", "hydras")),
    "leech": ("leech", ("leech", "leeches")),
    "larva": ("insect larva", ("larva", "larvae", "nymph")),
    "bristle_worms": ("bristle worms", ("bristleworm", "bristleworms")),
    "stinging_anemones": ("small brown anemones", ("anemone", "anemones")),
    "polyps": ("button polyps", ("polyp", "polyps")),
    "crab": ("crab", ("crab", "crabs")),
    "clicking_shrimp": ("clicking or striking shrimp", ("mantis",)),
    "other": ("something else", ("something",)),
}
_CALLED = {word: key for key, (_, words) in UNINVITED.items() for word in words}


@kind
class FoundUninvited(Kind):
    """`count`: how many were seen at a look, roughly; counts at the same hour and place tell the trend."""

    key: ClassVar[str] = "uninvited"
    label: ClassVar[str] = "Found uninvited"
    lane: ClassVar[str] = "life"
    example: ClassVar[str] = "uninvited 12 snails"
    glyph: ClassVar[str] = "fish"
    place: ClassVar[int] = 23
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("uninvited", "hitchhiker", "hitchhikers")
    what: str = choice_field("what", tuple((k, name) for k, (name, _) in UNINVITED.items()), required=True)
    count: int | None = number_field("how many at a look, roughly", low=0, high=100000, whole=True)
    text: str = text_field("where, and how it looks", column="text")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        many = f"{self.count} " if self.count is not None else ""
        return f"{many}{UNINVITED[self.what][0]}" + (f", {self.text}" if self.text else "")

    def repeats(self, other: Body) -> bool:
        return isinstance(other, FoundUninvited) and other.what == self.what

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        told = line.amount("uninvited", units=(), optional=True)
        if told is not None and (told.value != int(told.value) or told.value < 0):
            raise Ask(f"uninvited: {told.typed} is no count")
        count = int(told.value) if told is not None else None
        word = line.take(*_CALLED)
        if not word:
            taps = [Tap(words[-1], line.rewritten(f"uninvited {told.typed if told else ''} {words[-1]}"))
                    for _, words in list(UNINVITED.values())[:4]]  # fmt: skip
            raise Ask("uninvited: what is it? Say something when you do not know", *taps)
        made = cls.from_raw({"what": _CALLED[word], "count": count, "text": line.rest()})
        return Heard(made, "uninvited", made.words({}, line.setting.units))
