"""Devices that are off for a while, since when and until when."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from jarbloom.core.journal.kinds.choices import DEVICES
from jarbloom.core.journal.kinds.off import Off
from jarbloom.core.journal.kinds.on import On
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry


@dataclass(frozen=True)
class SwitchedOff:
    """A device that is off, since when and until when (None: nobody said)."""

    device: str
    name: str
    since: date
    until: date | None

    def overdue(self, today: date) -> bool:
        return self.until is None or self.until <= today


def switched_off(entries: Sequence[Entry]) -> tuple[SwitchedOff, ...]:
    """What is off now, the first to go on again first. A device stays on the list until it is ticked."""
    off: dict[str, SwitchedOff] = {}
    for entry in Log.of(entries).kinds(Off, On):
        assert isinstance(entry.body, Off | On)
        device = entry.body.device
        if isinstance(entry.body, Off):
            off[device] = SwitchedOff(device, dict(DEVICES)[device], entry.day, entry.body.until)
        else:
            off.pop(device, None)
    return tuple(sorted(off.values(), key=lambda o: (o.until or date.min, o.device)))
