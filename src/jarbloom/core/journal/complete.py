"""What an entry needs beside what was typed: nitrogen in a dose, share of a change, whether the tank can hold it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from jarbloom.core.journal.kinds import ANIMAL_KINDS
from jarbloom.core.model.kit import Kit
from jarbloom.core.model.species import Species
from jarbloom.core.water.recipes import nitrogen_in_chloride_mg, nitrogen_in_solution_mg
from jarbloom.errors import Refused
from jarbloom.units import Units, figure

MAX_DOSE_MG_N_L = 50.0
OUTGROWN = 1.3  # of the usual adult length (judgement)


@dataclass(frozen=True)
class Setting:
    """What the log needs to know of the tank: net litres, kit, stock, and how the keeper counts."""

    net_l: float
    kit: Kit
    units: Units
    species: Mapping[str, Species]
    living: tuple[str, ...] = ()
    solution_percent: float = 9.5


def complete(kind: str, body: Mapping[str, Any], setting: Setting) -> dict[str, Any]:
    """Body with its computed fields. Raises Refused for amounts that this tank cannot take."""
    done = dict(body)
    if kind == "change" or kind == "topoff":
        litres = float(done["litres"])
        if litres > setting.net_l * 1.001:
            what = "A change" if kind == "change" else "A top-off"
            raise Refused(
                f"{what} of {setting.units.volume(litres)} is more than the tank holds "
                f"({setting.units.volume(setting.net_l)}).",
                "litres",
            )
        if kind == "change":
            done["fraction"] = litres / setting.net_l
    if kind == "dose":
        done |= _dose(float(done["amount"]), str(done.get("unit", "mg/L")), setting)
    if kind in ANIMAL_KINDS:
        if done["species"] not in setting.species:
            raise Refused(f"“{done['species']}” is not in the catalogue.", "species")
        _check_length(setting.species[done["species"]], done.get("length_cm"), setting.units)
    return done


def _check_length(kind: Species, length_cm: float | None, units: Units) -> None:
    """Single animals outgrow the usual adult length; far beyond it the unit or the species is a slip."""
    if length_cm is not None and kind.key != "unknown" and length_cm > OUTGROWN * kind.adult_cm:
        raise Refused(
            f"{kind.name[:1].upper()}{kind.name[1:]} grow to {units.length(kind.adult_cm)}; "
            f"{units.length(length_cm)} is beyond that. Check the unit, or leave it empty.",
            "length_cm",
        )


def _dose(amount: float, unit: str, setting: Setting) -> dict[str, Any]:
    """mg N of a dose in mg/L (as N), g ammonium chloride, mL of the keeper's solution, or mg N."""
    match unit:
        case "mg/L":
            mg_n = amount * setting.net_l
        case "g":
            mg_n = nitrogen_in_chloride_mg(amount)
        case "mL":
            mg_n = nitrogen_in_solution_mg(amount, setting.solution_percent)
        case "mg":
            mg_n = amount
        case _:
            raise Refused(f"A dose in “{unit}”? Say mg/L, g, mL or mg.", "unit")
    if mg_n > MAX_DOSE_MG_N_L * setting.net_l:
        raise Refused(
            f"That would raise ammonia by {figure(mg_n / setting.net_l)} mg/L; "
            f"nobody doses above {MAX_DOSE_MG_N_L:.0f}. Check the unit.",
            "amount",
        )
    return {"amount": amount, "unit": unit, "mg_n": mg_n, "typed": f"{figure(amount)} {unit}"}
