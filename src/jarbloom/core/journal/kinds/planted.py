"""Plants that were put in, taken out, or died back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import choice_field, number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.units import Units

# What each needs stands in data/plants.csv; here their names, and further ones by which a line calls them
PLANTS: Mapping[str, tuple[str, tuple[str, ...]]] = {
    "java_moss": ("Java moss", ("moss",)), "christmas_moss": ("Christmas moss", ()), "java_fern": ("Java fern", ()),
    "anubias_nana": ("dwarf anubias", ("anubias nana", "nana")), "anubias_barteri": ("broadleaf anubias", ()),
    "bucephalandra": ("bucephalandra", ("buce",)), "african_water_fern": ("African water fern", ("bolbitis",)),
    "vallisneria_spiralis": ("straight vallisneria", ("vallisneria", "vallis")),
    "vallisneria_gigantea": ("giant vallisneria", ("giant vallis",)), "hornwort": ("hornwort", ()),
    "egeria": ("large-flowered waterweed", ("egeria", "anacharis")),
    "canadian_waterweed": ("Canadian waterweed", ("elodea",)), "guppy_grass": ("guppy grass", ("najas",)),
    "water_wisteria": ("water wisteria", ("wisteria",)), "dwarf_hygrophila": ("Indian hygrophila", ("hygrophila",)),
    "giant_hygrophila": ("giant hygrophila", ()), "water_sprite": ("water sprite", ()),
    "amazon_sword": ("Amazon sword", ("sword",)), "ozelot_sword": ("red spotted sword", ("ozelot sword",)),
    "wendts_crypt": ("Wendt's crypt", ("crypt", "cryptocoryne")), "crypt_parva": ("dwarf crypt", ("parva",)),
    "balansae_crypt": ("Balansa's crypt", ("balansae",)), "dwarf_sagittaria": ("dwarf sagittaria", ("sagittaria",)),
    "pygmy_chain_sword": ("pygmy chain sword", ("chain sword",)),
    "dwarf_hairgrass": ("dwarf hairgrass", ("hairgrass",)), "monte_carlo": ("Monte Carlo", ()),
    "dwarf_baby_tears": ("dwarf baby tears", ("baby tears",)),
    "staurogyne_repens": ("staurogyne", ()), "ludwigia_repens": ("creeping ludwigia", ("ludwigia",)),
    "rotala_rotundifolia": ("dwarf rotala", ("rotala",)), "bacopa_caroliniana": ("lemon bacopa", ("bacopa",)),
    "cabomba": ("green cabomba", ("cabomba",)), "limnophila": ("Asian ambulia", ("ambulia", "limnophila")),
    "alternanthera_reineckii": ("scarlet temple", ("alternanthera",)), "tiger_lotus": ("tiger lotus", ("lotus",)),
    "duckweed": ("duckweed", ()), "salvinia": ("floating fern", ("salvinia",)),
    "frogbit": ("Amazon frogbit", ("frogbit",)), "water_lettuce": ("water lettuce", ()),
    "red_root_floater": ("red root floater", ("red root",)),
    "other": ("another plant", ("plant",)),
}  # fmt: skip
_CALLED = {word.lower(): key for key, (name, more) in PLANTS.items() for word in (name, *more)}
WENT = (("in", "put in"), ("out", "taken out"), ("lost", "died back or eaten"))


def called(text: str) -> str:
    """The key of the plant that is called so, in the singular or the plural; ''."""
    low = text.lower().strip()
    return _CALLED.get(low) or _CALLED.get(low.removesuffix("s")) or _CALLED.get(low.removesuffix("es")) or ""


@kind
class Planted(Kind):
    """`count`: plants or portions; None: not counted."""

    key: ClassVar[str] = "planted"
    label: ClassVar[str] = "Plants"
    lane: ClassVar[str] = "life"
    example: ClassVar[str] = "planted 5 java fern"
    glyph: ClassVar[str] = "fish"
    place: ClassVar[int] = 25
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("planted", "uprooted")
    plant: str = choice_field("which", tuple((k, name) for k, (name, _) in PLANTS.items()), required=True)
    count: int | None = number_field("how many", low=1, high=10000, whole=True)
    went: str = choice_field("what was done", WENT, default="in")
    text: str = text_field("where, or which", column="text")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        many = f"{self.count} " if self.count is not None else ""
        return f"{many}{PLANTS[self.plant][0]} {dict(WENT)[self.went]}" + (f", {self.text}" if self.text else "")

    def repeats(self, other: Body) -> bool:
        return isinstance(other, Planted) and (other.plant, other.went) == (self.plant, self.went)

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        told = line.amount("planted", units=(), optional=True)
        if told is not None and (told.value != int(told.value) or told.value < 1):
            raise Ask(f"planted: {told.typed} is no count")
        name = line.phrase()
        if not name:
            raise Ask("planted: which plant?")
        count = int(told.value) if told is not None else None
        key = called(name)
        if not key:
            tap = f"{line.word} {told.typed + ' ' if told else ''}plant"
            raise Ask(f"“{name}” is not in the list of plants", Tap("another plant", line.rewritten(tap)))
        went = "out" if line.word == "uprooted" else "in"
        made = cls.from_raw({"plant": key, "count": count, "went": went})
        return Heard(made, "plants", made.words({}, line.setting.units))
