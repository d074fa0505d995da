"""Equipment checks that can be ticked and that come again: rows of data/checks.toml."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.journal.kinds.check import EquipmentChecked
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.reference import EquipmentCheck
from jarbloom.core.model.tank import Tank

FAULT_AGAIN_DAYS = 1


@dataclass(frozen=True)
class Due:
    """A check with its last tick. `fault` is what was found then."""

    check: EquipmentCheck
    last: date | None
    fault: str
    due: date


def applies(check: EquipmentCheck, tank: Tank) -> bool:
    return {
        "always": True,
        "heater": bool(tank.heaters),
        "hoses": any(f.kind in ("canister", "sump") for f in tank.filters) or tank.sump_l > 0,
        "sump": tank.sump_l > 0,
        "lid": tank.lid,
        "salt": tank.salinity_g_kg > 0,
    }[check.when]


def checks_due(
    checks: Mapping[str, EquipmentCheck], tank: Tank, entries: Sequence[Entry], today: date
) -> tuple[Due, ...]:
    """Every check of this tank with the day on which it is due; never ticked: today. A fault comes back tomorrow."""
    ticked = {e.body.check: e for e in Log.of(entries).kinds(EquipmentChecked)}  # the last of each
    found = []
    for check in checks.values():
        if not applies(check, tank):
            continue
        last = ticked.get(check.key)
        if last is None:
            found.append(Due(check, None, "", today))
            continue
        on, fault = last.day, last.body.fault
        words = (last.body.text or "a fault") if fault else ""
        found.append(Due(check, on, words, on + timedelta(days=FAULT_AGAIN_DAYS if fault else check.every_days)))
    return tuple(found)
