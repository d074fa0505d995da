"""Clauses read by their parts, whatever their order; a second look at what no set way of saying holds."""

from __future__ import annotations

from jarbloom.core.journal.spoken.frames import animals, food, machines, measured, water
from jarbloom.core.journal.spoken.frames.frame import Frame, IsAnimal
from jarbloom.core.journal.spoken.readings import Said

_FRAMES: tuple[Frame, ...] = (
    water.CHANGED, water.TOPPED_UP, water.DOSED, water.BACTERIA, water.CONDITIONER, water.TREATED, water.BINDER,
    food.FED,
    machines.RINSED, machines.RENEWED, machines.BORROWED, machines.BED,
    machines.POWER, machines.SWITCHED, machines.CARBON, *machines.FAULTS,
    animals.DIED, animals.CAME, animals.GIVEN, animals.COUNTED, animals.BORN,
    measured.READ, measured.NEITHER, measured.WARM, measured.SALT,
)  # fmt: skip


def framed(clause: str, is_animal: IsAnimal) -> Said:
    """The clause in the words of the log line, where the parts of one kind of deed hold all of it and of no other."""
    said = {told for frame in _FRAMES if (told := frame.read(clause, is_animal)) is not None}
    return said.pop() if len(said) == 1 else None
