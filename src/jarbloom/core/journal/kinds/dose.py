"""An ammonia dose."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import ClassVar, Self

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import DERIVED, choice_field, number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.species import Species
from jarbloom.core.water.ammonia import CHRONIC_STALL_TAN
from jarbloom.core.water.recipes import nitrogen_in_chloride_mg, nitrogen_in_solution_mg
from jarbloom.errors import Refused
from jarbloom.units import NBSP, Units, figure

MAX_DOSE_MG_N_L = 50.0
UNUSUAL_MG_N_L = 8.0  # nobody means to dose more; asked about in the log line
UNITS = (
    ("mg/L", "mg/L as N, target rise"),
    ("g", "g ammonium chloride"),
    ("mL", "mL of my solution"),
    ("mg", "mg N"),
)
OTHER_PRODUCTS = ("conditioner", "bacteria", "detox", "detoxifier", "cond", "bac", "fertiliser", "food")


@kind
class Dose(Kind):
    """`mg_n` follows from amount, unit and tank; what is stored has to say it."""

    key: ClassVar[str] = "dose"
    label: ClassVar[str] = "Ammonia dose"
    lane: ClassVar[str] = "doses"
    example: ClassVar[str] = "dose 2 mg/l"
    glyph: ClassVar[str] = "drop"
    place: ClassVar[int] = 2
    said: ClassVar[tuple[str, ...]] = ("dose", "dosed")
    amount: float = number_field("amount", low=0.001, high=5000, required=True, column="amount")
    unit: str = choice_field("of", UNITS, default="mg/L", column="unit")
    mg_n: float = number_field("nitrogen", high=500_000, default=0.0, required=True, role=DERIVED)
    target_mg_n_l: float | None = number_field("target", high=100, role=DERIVED)
    typed: str = text_field("as typed", role=DERIVED)

    def completed(self, setting: Setting) -> Self:
        amount = self.amount
        match self.unit:
            case "g":
                mg_n = nitrogen_in_chloride_mg(amount)
            case "mL":
                mg_n = nitrogen_in_solution_mg(amount, setting.solution_percent)
            case "mg":
                mg_n = amount
            case _:
                mg_n = amount * setting.net_l
        if mg_n > MAX_DOSE_MG_N_L * setting.net_l:
            raise Refused(
                f"That would raise ammonia by {figure(mg_n / setting.net_l)} mg/L; "
                f"nobody doses above {MAX_DOSE_MG_N_L:.0f}. Check the unit.",
                "amount",
            )
        return replace(self, mg_n=mg_n, typed=f"{figure(amount)} {self.unit}")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{figure(self.mg_n, 3)}{NBSP}mg{NBSP}N" + (f" ({self.typed})" if self.typed else "")

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        other = line.take(*OTHER_PRODUCTS)
        ammonia = line.take("ammonia", "nh4cl")
        up_to = line.take("to") or (line.take("up") and line.take("to"))
        told = line.number("dose", units=("mg/l", "ppm", "g", "ml", "mg"))
        other = other or line.take(*OTHER_PRODUCTS)
        if other:
            amount = f"{other} {told.typed} {told.unit}".strip()
            raise Ask(f"Dosed {other}: not ammonia?", Tap(amount, line.rewritten(amount)))
        ammonia = line.take("ammonia") or ammonia
        if told.unit == "ml" and not ammonia:
            solution = f"dose {told.typed} ml ammonia"
            raise Ask(f"{told.typed} mL of which bottle?", Tap("ammonia solution", line.rewritten(solution)))
        if not told.unit:
            raise Ask(
                f"Dose {figure(told.value)} of what? Say mg/l, g, ml or mg.",
                Tap(f"{told.typed} mg/L", line.rewritten(f"dose {told.typed} mg/l")),
            )
        if up_to:
            added = Tap(f"{told.typed} {told.unit} were added", line.rewritten(f"dose {told.typed} {told.unit}"))
            raise Ask(f"Up to {told.typed} {told.unit}: how much went in?", added)
        unit = {"mg/l": "mg/L", "ppm": "mg/L", "ml": "mL"}.get(told.unit, told.unit)
        made = cls.from_raw({"amount": told.value, "unit": unit}).completed(line.setting)
        rise = made.mg_n / line.setting.net_l
        line.doubt(rise > UNUSUAL_MG_N_L, f"That raises ammonia by {figure(rise, 2)} mg/L: is that right?")
        stalls = f", above {figure(CHRONIC_STALL_TAN)} stalls nitrite" if rise > CHRONIC_STALL_TAN else ""
        alive = "; animals live here: it burns gills" if any(line.setting.living.values()) else ""
        value = f"{figure(made.mg_n)}{NBSP}mg{NBSP}N"
        return Heard(made, "dose", value, f"rises {figure(rise, 2)}{NBSP}mg/L{stalls}{alive}")
