"""A water change."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar, Self

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import DERIVED, Field, number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.journal.readings import read
from jarbloom.core.journal.setting import Setting
from jarbloom.core.journal.volumes import litres_of
from jarbloom.core.model.species import Species
from jarbloom.errors import Refused
from jarbloom.units import NBSP, Units, figure, number

MOST_AT_ONCE = 0.8  # of the tank; more is asked about


_SOURCE: Mapping[str, str] = {
    "ph": "ph", "kh": "kh", "ammonia": "ammonia", "am": "ammonia",
    "nitrate": "nitrate", "na": "nitrate", "no3": "nitrate",
}  # fmt: skip


def _of_source(line: Clause) -> dict[str, object]:
    """'with ph 7.8 kh 8 na 20': of the new water, nitrogen as the keeper's kit counts it."""
    found: dict[str, object] = {}
    word = line.take("with")
    while word and (word := line.take(*_SOURCE)):
        quantity = _SOURCE[word]
        told = line.number(f"{quantity} of the new water", units=("dkh",) if quantity == "kh" else ())
        found[f"source_{quantity}"] = read(quantity, told.typed, line.setting.kit).seen
    return found


@kind
class Change(Kind):
    """Litres of new water; what is in it where it is not the tank's usual source."""

    key: ClassVar[str] = "change"
    label: ClassVar[str] = "Water change"
    lane: ClassVar[str] = "water"
    example: ClassVar[str] = "wc 30%"
    glyph: ClassVar[str] = "water"
    place: ClassVar[int] = 4
    said: ClassVar[tuple[str, ...]] = ("wc", "change", "changed")
    litres: float = number_field(
        "new water", dimension="volume", low=0.1, high=50000, required=True, column="amount", csv_unit="L"
    )
    source_ph: float | None = number_field("its pH, if measured", low=3, high=11)
    source_kh: float | None = number_field("its KH", unit="dKH", high=60, hint="when it is other water than usual")
    source_ammonia: float | None = number_field("its ammonia", unit="mg/L as N", high=20)
    source_nitrate: float | None = number_field("its nitrate", unit="mg/L as N", high=100)
    fraction: float | None = number_field("share", high=1.01, role=DERIVED)
    typed: str = text_field("as typed", role=DERIVED)

    @classmethod
    def _from_cell(cls, spec: Field, text: str, unit: str, setting: Setting) -> Any:
        if spec.name == "litres" and unit == "%":
            return number(text, "litres", low=0, high=100) * setting.net_l / 100
        return super()._from_cell(spec, text, unit, setting)

    def completed(self, setting: Setting) -> Self:
        if self.litres > setting.net_l * 1.001:
            raise Refused(
                f"A change of {setting.units.volume(self.litres)} is more than the tank holds "
                f"({setting.units.volume(setting.net_l)}).",
                "litres",
            )
        return replace(self, fraction=self.litres / setting.net_l)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        share = f" ({100 * self.fraction:.0f}{NBSP}%)" if self.fraction is not None else ""
        return f"{units.volume(self.litres)} new water{share}"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        told = line.number("water change", units=("%", "l", "gal", "ml"), span=True)
        s = line.setting
        if told.unit == "%":
            if not 0 < told.value <= 100:
                raise Ask(f"A water change of {figure(told.value)} %?", Tap("30 %", line.rewritten("wc 30%")))
            litres, typed = s.net_l * told.value / 100, f"{told.typed} %"
        else:
            litres, typed = litres_of(told, "water change", line), f"{told.typed} {told.unit}"
        made = cls.from_raw({"litres": litres, "typed": typed} | _of_source(line)).completed(s)
        share = litres / s.net_l
        line.doubt(share > MOST_AT_ONCE, f"{100 * share:.0f} % of the water at once: is that right?")
        counted = ", the middle counts" if told.of_two else ""
        return Heard(made, "water change", s.units.volume(litres), f"{100 * share:.0f}{NBSP}%{counted}")
