"""Litres out of an amount of a log line: units are as the keeper has them, and a strange one is asked about."""

from __future__ import annotations

from jarbloom.core.journal.asking import Amount, Ask, Clause, Tap
from jarbloom.units import canonical, figure

_CANONICAL = {"l": "L", "gal": "gal", "ml": "mL"}


def litres_of(told: Amount, what: str, line: Clause) -> float:
    """Raises Ask for gallons of a metric keeper, who may mean another gallon, and for a bare number."""
    if not told.unit:
        unit = line.setting.units.unit("volume").lower()
        amount = f"{told.typed} {unit}"
        raise _which(what, told, amount, line)
    litres = canonical(told.value, _CANONICAL[told.unit], "volume")
    if told.unit == "gal" and line.setting.units.system == "metric":
        amount = f"{figure(litres)} l"
        tap = Tap(amount, line.rewritten(f"{line.word} {amount}"))
        raise Ask(f"Gallons: US ones, {amount}? Say it in litres.", tap)
    return litres


def _which(what: str, told: Amount, amount: str, line: Clause) -> Ask:
    tap = Tap(amount, line.rewritten(f"{line.word} {amount}"))
    return Ask(f"{what.capitalize()}: {figure(told.value)} of what?", tap)


def millilitres(line: Clause, what: str, unusual_ml_per_l: float) -> dict[str, object]:
    """The fields `ml` and `typed` of an amount of something in a bottle; empty where none is said."""
    told = line.amount(what, units=("ml", "l"), optional=True)
    if told is None:
        return {}
    if not told.unit:
        amount = f"{told.typed} ml"
        raise _which(what, told, amount, line)
    ml = 1000 * canonical(told.value, _CANONICAL[told.unit], "volume")
    most = unusual_ml_per_l * line.setting.net_l
    line.doubt(ml > most, f"{figure(ml)} mL of {what} in {figure(line.setting.net_l)} L: is that right?")
    return {"ml": ml, "typed": f"{told.typed} {told.unit}"}
