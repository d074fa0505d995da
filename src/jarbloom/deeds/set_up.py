"""Steps of setting up: the fill run, checks, and cultures. Each tick is one act, with every entry that it means."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.check import EquipmentChecked
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.off import Off
from jarbloom.core.journal.kinds.step import SetUpStep
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.readings import read
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Instrument, Tank
from jarbloom.core.setup.culture import preparations
from jarbloom.core.setup.fill import WRONG_TEMP_C, FillStanding, standing
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.keep_house import compare_instruments
from jarbloom.deeds.keep_tank import check
from jarbloom.deeds.log import Saved
from jarbloom.errors import NotFound, Refused
from jarbloom.store import house, journal, tanks
from jarbloom.store.db import transaction
from jarbloom.units import canonical, figure, number


@dataclass(frozen=True)
class FillRun:
    tank: Tank
    steps: tuple[FillStanding, ...]
    instruments: tuple[Instrument, ...]


def fill_run(desk: Desk, slug: str) -> FillRun:
    tank = tanks.tank(desk.conn, slug)
    entries = desk.log(tank.id)
    return FillRun(tank, standing(tank, entries, desk.preferences.units, desk.now), tuple(house.instruments(desk.conn)))


def tick_step(desk: Desk, slug: str, key: str, typed: Mapping[str, str]) -> Saved:
    """Tick a step of the fill run. Raises Refused naming the field: not its turn yet, its time not over, a figure
    missing or not as it should be."""
    run = fill_run(desk, slug)
    found = next((s for s in run.steps if s.step.key == key), None)
    if found is None:
        raise NotFound("There is no such step in this tank's fill run.")
    if found.done_at is not None:
        raise Refused("This step is done already; undo it in the log book.", "step")
    if found.open_from is None:
        raise Refused("An earlier step comes first.", "step")
    if found.waiting(desk.now) and not typed.get("anyway"):
        raise Refused(f"The step before needs its time, until {found.open_from:%a %H:%M}.", "step")
    tank, extra, amount = run.tank, [], found.step.amount
    if found.step.asks == "litres":
        tank, amount = _counted(desk, tank, typed)
    elif found.step.asks == "temp":
        extra.append(_temperature(desk, tank, typed))
        amount = desk.preferences.units.temp(extra[0].readings[0].seen)
    elif found.step.asks == "salinity":
        entry, amount = _two_salinities(desk, run, typed)
        extra.append(entry)
    if key == "condition":
        ml = typed.get("ml", "").strip()
        if not ml and tank.conditioner_ml_per_100l:
            from_label = tank.conditioner_ml_per_100l * (tank.measured_l or 0.0) / 100
            ml = f"{from_label:.4g}" if from_label else ""
        extra.append(desk.entry(Conditioner.from_raw({"ml": ml})))
    body = {"step": key, "title": found.step.title, "amount": amount, "text": typed.get("text", "")}
    new = [*extra, desk.entry(SetUpStep.from_raw(body))]
    with transaction(desk.conn):
        if tank is not run.tank:
            tanks.save_revision(desk.conn, tank.id, tank, desk.now)
        act, ids = journal.write_all(desk.conn, tank.id, "log", f"Set-up step: {found.step.title}", new, desk.now)
    return Saved(act, found.step.title, tuple(ids))


def _counted(desk: Desk, tank: Tank, typed: Mapping[str, str]) -> tuple[Tank, str]:
    """The tank with its counted litres: filled from now on, and begun today."""
    units = desk.preferences.units
    text = typed.get("litres", "").strip()
    if not text:
        raise Refused("Say how much went in: the counted fill replaces the geometry.", "litres")
    litres = canonical(number(text, "litres", low=0), units.unit("volume"), "volume")
    filled = replace(tank, measured_l=litres, filled=True)
    if not tank.filled:
        filled = replace(filled, started=desk.now.date())
    try:
        check(filled, desk)
    except Refused as problem:
        raise Refused(problem.sentence, "litres") from None
    return filled, units.volume(litres)


def _temperature(desk: Desk, tank: Tank, typed: Mapping[str, str]) -> Entry:
    units = desk.preferences.units
    text = typed.get("temp", "").strip()
    if not text:
        raise Refused("Read the temperature again, a day after the heating step.", "temp")
    try:
        reading = read("temp", text, tank.kit, units.unit("temp"))
    except Refused as problem:
        raise Refused(problem.sentence, "temp") from None
    off = reading.seen - tank.temp_c
    if abs(off) > WRONG_TEMP_C:
        raise Refused(
            f"{units.temp(reading.seen)} is {figure(abs(off), 2)} degrees {'above' if off > 0 else 'below'} the target "
            f"of {units.temp(tank.temp_c)}: mend the setting and give it another day.",
            "temp",
        )
    return desk.entry(Tested(readings=(reading,)))


def _two_salinities(desk: Desk, run: FillRun, typed: Mapping[str, str]) -> tuple[Entry, str]:
    told = [(typed.get(which, "").strip(), typed.get(f"{which}_reading", "")) for which in ("first", "second")]
    found = compare_instruments(desk, told[0], told[1], run.tank.temp_c)
    if not found.agree:
        raise Refused(found.words, "second_reading")
    target = run.tank.salinity_g_kg
    if abs(found.mean_g_kg - target) > SALINITY_NEAR_G_KG:
        way = "more salt" if found.mean_g_kg < target else "fresh water"
        raise Refused(
            f"{found.words} But {figure(target)} g/kg is wanted: mix in {way}, wait, and read again.", "second_reading"
        )
    reading = read("salinity", f"{found.mean_g_kg:.4g} g/kg", run.tank.kit)
    return desk.entry(Tested(readings=(reading,))), found.words


SALINITY_NEAR_G_KG = 1.5


def tick_check(desk: Desk, slug: str, key: str, fault: bool = False, text: str = "") -> Saved:
    """Tick an equipment check; a fault brings it back tomorrow. Raises Refused for a fault without a word about it."""
    tank = tanks.tank(desk.conn, slug)
    if key not in desk.reference.checks:
        raise NotFound("There is no such check.")
    if fault and not text.strip():
        raise Refused("Say in a word what was wrong.", f"text-{key}")
    title = desk.reference.checks[key].title
    new = desk.entry(EquipmentChecked(check=key, title=title, fault=fault, text=text.strip()))
    with transaction(desk.conn):
        act, ids = journal.write_all(desk.conn, tank.id, "log", f"Equipment check: {title}", [new], desk.now)
    return Saved(act, title, tuple(ids))


@dataclass(frozen=True)
class Culture:
    """A culture going in: the bottle or media as told, and which preparations were ticked."""

    body: Mapping[str, Any]
    ticked: tuple[str, ...]
    until: Mapping[str, date]  # by device


def put_in_culture(desk: Desk, slug: str, culture: Culture) -> Saved:
    """Log the culture, and what was switched off for it until when, in one act."""
    tank = tanks.tank(desk.conn, slug)
    source = culture.body.get("source", "bottle")
    new = [desk.entry(Bacteria.from_raw(culture.body))]
    for step in preparations(tank, source, desk.preferences.units):
        if step.device and step.key in culture.ticked:
            until = culture.until[step.device]
            if until < desk.now.date():
                raise Refused("The day it goes on again lies in the past.", f"until-{step.device}")
            new.append(desk.entry(Off(device=step.device, until=until)))
    with transaction(desk.conn):
        act, ids = journal.write_all(desk.conn, tank.id, "log", "Culture put in", new, desk.now)
    return Saved(act, "Culture put in", tuple(ids))
