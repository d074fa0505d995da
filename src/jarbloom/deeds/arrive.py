"""An arrival day: begun with the bag, ticked step by step; the log entries write themselves."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import timedelta
from typing import Any

from jarbloom.core.animals.acclimatise import Advice, Bag, TankWater, WayOver, advise, rises_far
from jarbloom.core.animals.arrival import ArrivalStep, standings
from jarbloom.core.animals.bioload import usual_feed_g_day
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.quarantine import InQuarantine
from jarbloom.core.journal.log import latest
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.stocking.terms import quarantine_days
from jarbloom.deeds import plan_batches
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.store import arrival_runs, journal, tanks
from jarbloom.store.arrival_runs import ArrivalRun
from jarbloom.store.db import transaction
from jarbloom.units import NBSP, figure, head_count

WHERE = ("display", "quarantine")
LEAST_QUARANTINE = 14


@dataclass(frozen=True)
class ArrivalDay:
    """A run as it stands, with what is advised for its bag."""

    tank: Tank
    run: ArrivalRun
    batch: Batch
    animals: tuple[Animals, ...]
    bag: Bag
    water: TankWater
    advice: Advice
    course: WayOver
    steps: tuple[ArrivalStep, ...]
    ration_g: float

    @property
    def where(self) -> str:
        return self.run.spec["where"]

    @property
    def across(self) -> bool:
        return "across" in self.run.done


def water_of(tank: Tank, entries: Sequence[Entry]) -> TankWater:
    """The tank's water by its latest readings, else as it is set up."""
    seen = {q: latest(entries, q) for q in ("temp", "ph", "salinity", "ammonia")}
    usual = {"temp": tank.temp_c, "ph": tank.ph, "salinity": tank.salinity_g_kg, "ammonia": 0.0}
    return TankWater(*(usual[q] if s is None else s.value for q, s in seen.items()))


def begin(desk: Desk, slug: str, batch_id: int, bag: Bag, where: str, told: Mapping[str, str]) -> int:
    """Open the run of a batch that waits, by the tank's school or as recommended. `told`: seller and tank_bred."""
    tank, batch = tanks.tank(desk.conn, slug), plan_batches.waiting(desk, slug, batch_id)
    if not batch.items:
        raise Refused(f"{batch.name} has no animals yet.", "batch")
    if where not in WHERE:
        raise Refused("Say where they go: the display or quarantine.", "where")
    if open_day(desk, slug) is not None:
        raise Refused("An arrival day is open already: end it first.", "batch")
    school, water = desk.reference.schools.acclimatising.get(tank.acclimatising), water_of(tank, desk.log(tank.id))
    spec: dict[str, Any] = {
        "bag": asdict(bag),
        "where": where,
        "way": "",
        "seller": told.get("seller", "").strip()[:120],
        "tank_bred": told.get("tank_bred", ""),
        "water": asdict(water),
    }
    if school is not None and not rises_far(bag, water):  # no school shortens those days
        spec["way"] = school.way
    with transaction(desk.conn):
        stale = arrival_runs.open_run(desk.conn, tank.id)
        if stale is not None:
            arrival_runs.end(desk.conn, stale.id, "given up", desk.now)
        return arrival_runs.add(desk.conn, tank.id, batch_id, spec, desk.now)


def open_day(desk: Desk, slug: str) -> ArrivalRun | None:
    """The arrival day that is going on; one whose batch was taken off the plan is not."""
    run = arrival_runs.open_run(desk.conn, tanks.tank(desk.conn, slug).id)
    try:
        return run if run is None else day(desk, slug, run.id).run
    except NotFound:
        return None


def day(desk: Desk, slug: str, run_id: int) -> ArrivalDay:
    tank = tanks.tank(desk.conn, slug)
    run = arrival_runs.run(desk.conn, tank.id, run_id)
    batch = plan_batches.batch(desk, slug, run.batch_id or 0)
    bag, water = Bag(**run.spec["bag"]), TankWater(**run.spec["water"])
    pours_off = desk.reference.schools.way("portions").discards
    advice = advise(bag, water, batch.items, desk.reference.species, pours_off)
    course = advice.courses[run.spec["way"] or advice.way]
    ration = usual_feed_g_day(batch.items, desk.reference.species, tank.temp_c)
    return ArrivalDay(tank, run, batch, batch.items, bag, water, advice, course, standings(course, run.done), ration)


def choose_way(desk: Desk, slug: str, run_id: int, way: str) -> None:
    """Another way, as long as no water has been added."""
    found = day(desk, slug, run_id)
    if way not in found.advice.courses:
        raise Refused("That is no way to acclimatise that is known here.", "way")
    if set(found.run.done) - {"lights", "float"}:
        raise Refused("Water has been added already: this way is gone to its end.", "way")
    with transaction(desk.conn):
        arrival_runs.set_spec(desk.conn, run_id, found.run.spec | {"way": way})


def tick(desk: Desk, slug: str, run_id: int, step: str, typed: Mapping[str, str], signs: Sequence[str] = ()) -> None:
    """One step done. `typed` may hold 'anyway' (before its time by the clock), 'text' and 'override', and for the move
    across 'alive-<species>' counts."""
    with transaction(desk.conn):
        found = day(desk, slug, run_id)
        if found.run.ended_at is not None:
            raise Refused("This arrival day is over.", "step")
        standing = next((s for s in found.steps if s.step.key == step), None)
        if standing is None or not standing.current:
            raise Refused("Another step stands now.", "step")
        if standing.waiting(desk.now) and "anyway" not in typed:
            assert standing.opens is not None
            raise Refused(f"Its time comes at {standing.opens:%H:%M}.", "step")
        if standing.kind == "across":
            _across(desk, slug, found, typed)
        elif standing.kind == "watch" and (signs or typed.get("text", "").strip()):
            body = Observation.from_raw({"signs": list(signs), "text": typed.get("text", "").strip()})
            _log(desk, found.tank, "Watched the new ones", [desk.entry(body)])
        arrival_runs.tick(desk.conn, run_id, step, desk.now)
        if standing.kind == "light_on":
            arrival_runs.end(desk.conn, run_id, "in", desk.now)


def untick(desk: Desk, slug: str, run_id: int) -> None:
    """Take the last tick back; what the log holds is taken back in the log."""
    found = day(desk, slug, run_id)
    last = [s for s in found.steps if s.done_at is not None][-1:]
    if not last or last[0].kind == "across":
        raise Refused("Who is across is in the log: take it back there.", "step")
    with transaction(desk.conn):
        arrival_runs.untick(desk.conn, run_id, last[0].step.key)
        arrival_runs.end(desk.conn, run_id, None, None)


def give_up(desk: Desk, slug: str, run_id: int) -> None:
    """End a run that leads nowhere; its batch waits as before unless it is across."""
    found = day(desk, slug, run_id)
    with transaction(desk.conn):
        arrival_runs.end(desk.conn, run_id, "in" if found.across else "given up", desk.now)


def _across(desk: Desk, slug: str, found: ArrivalDay, typed: Mapping[str, str]) -> None:
    alive = {a.species: _alive(a, typed) for a in found.animals}
    dead = sum(a.count - alive[a.species] for a in found.animals)
    _log(desk, found.tank, "The bag of the arrival day", [desk.entry(Note(text=_bag_words(desk, found, dead)))])
    told = {k: found.run.spec[k] for k in ("seller", "tank_bred") if found.run.spec.get(k)}
    if found.where == "quarantine":
        days = quarantine_days(found.tank, desk.reference.schools) or LEAST_QUARANTINE
        until = desk.now.date() + timedelta(days=days)
        stays = [
            desk.entry(InQuarantine(
                species=a.species, count=alive[a.species], length_cm=a.length_cm, until=until, batch=found.batch.id,
                seller=told.get("seller", ""),
            ))
            for a in found.animals if alive[a.species]
        ]  # fmt: skip
        _log(desk, found.tank, f"{found.batch.name} is in quarantine until {until}", stays)
        return
    plan_batches.they_are_in(desk, slug, found.batch.id, desk.now, typed.get("override", ""), alive, told)


def _alive(a: Animals, typed: Mapping[str, str]) -> int:
    text = typed.get(f"alive-{a.species}", "").strip()
    if not text:
        return a.count
    return head_count(text, f"alive-{a.species}")


def _bag_words(desk: Desk, found: ArrivalDay, dead: int) -> str:
    bag, water, units = found.bag, found.water, desk.preferences.units
    parts = [f"{units.volume(bag.litres)}, {figure(bag.hours)}{NBSP}h on the way"]
    if bag.temp_c is not None:
        parts.append(f"{units.temp(bag.temp_c)} against {units.temp(water.temp_c)}")
    if bag.ph is not None:
        parts.append(f"pH {figure(bag.ph)} against {figure(water.ph)}")
    if bag.salinity_g_kg is not None:
        parts.append(f"{figure(bag.salinity_g_kg)} against {figure(water.salinity_g_kg)}{NBSP}g/kg")
    if bag.tan_mg_n_l is not None:
        parts.append(f"ammonia {figure(bag.tan_mg_n_l)}{NBSP}mg/L as N")
    way = desk.reference.schools.way(found.course.way).name
    lost = f" {dead} did not come alive." if dead > 0 else ""
    return f"Bag of {found.batch.name.lower()}: {', '.join(parts)}. Acclimatised: {way}.{lost}"


def _log(desk: Desk, tank: Tank, sentence: str, new: list[Entry]) -> None:
    if new:
        journal.write_all(desk.conn, tank.id, "log", sentence, new, desk.now)
