"""Water for what has evaporated: fresh as a rule, salt by mistake."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Self

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.field import DERIVED, flag_field, number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.journal.setting import Setting
from jarbloom.core.journal.volumes import litres_of
from jarbloom.core.model.species import Species
from jarbloom.errors import Refused
from jarbloom.units import Units

UNUSUAL_SHARE = 0.25  # of the tank: more does not evaporate unseen


@kind
class TopOff(Kind):
    key: ClassVar[str] = "topoff"
    label: ClassVar[str] = "Top-off"
    lane: ClassVar[str] = "water"
    example: ClassVar[str] = "top 2 l"
    glyph: ClassVar[str] = "water"
    place: ClassVar[int] = 5
    said: ClassVar[tuple[str, ...]] = ("top", "topoff", "top-off", "topup", "top-up")
    litres: float = number_field(
        "water", dimension="volume", low=0.01, high=50000, required=True, column="amount", csv_unit="L"
    )
    salty: bool = flag_field("it was salt water")
    typed: str = text_field("as typed", role=DERIVED)

    def completed(self, setting: Setting) -> Self:
        if self.litres > setting.net_l * 1.001:
            raise Refused(
                f"A top-off of {setting.units.volume(self.litres)} is more than the tank holds "
                f"({setting.units.volume(setting.net_l)}).",
                "litres",
            )
        return self

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{units.volume(self.litres)} {'salt' if self.salty else 'fresh'} water"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        told = line.number("top-off", units=("l", "gal", "ml"))
        litres = litres_of(told, "top-off", line)
        salty = line.take("salt", "saltwater", "fresh", "freshwater").startswith("salt")
        line.take("water")
        made = cls.from_raw({"litres": litres, "salty": salty, "typed": f"{told.typed} {told.unit}"}).completed(
            line.setting
        )
        text = line.setting.units.volume(litres)
        line.doubt(litres > UNUSUAL_SHARE * line.setting.net_l, f"A top-off of {text}, or was water changed?")
        return Heard(made, "top-off", text, "salt water: the salinity climbs" if salty else "")
