"""What is in store and runs out, and the list for the shop: what is low, animals that are planned, what is missing."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import timedelta

from jarbloom.core.animals.names import plural
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.log import Log
from jarbloom.core.model.species import Species
from jarbloom.core.model.supply import Supply
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.supplies import Lasts, Month, by_month, check, lasts
from jarbloom.deeds.desk import Desk
from jarbloom.errors import JarBloomError, Refused
from jarbloom.store import batches, house, supplies, tanks
from jarbloom.store.db import transaction

AHEAD = timedelta(days=60)  # batches planned so soon stand on the list


@dataclass(frozen=True)
class ToGet:
    """A line of the list for the shop: what, for which tank or why, and what to ask there."""

    what: str
    why: str
    ask: str


@dataclass(frozen=True)
class Stores:
    lasts: tuple[Lasts, ...]
    removed: tuple[Supply, ...]
    months: tuple[Month, ...]


def _house(desk: Desk) -> Iterator[tuple[Tank, Log]]:
    """Every tank with its log. One whose record cannot be read counts for nothing here: its own page says so."""
    for _, slug, _ in tanks.names(desk.conn):
        with suppress(JarBloomError):
            tank = tanks.tank(desk.conn, slug)
            yield tank, desk.log(tank.id)


def see(desk: Desk) -> Stores:
    kept, today = supplies.supplies(desk.conn), desk.now.date()
    whole = [(t, log) for t, log in _house(desk) if t.filled]
    found = tuple(lasts(s, whole, desk.reference, today) for s in kept)
    bought = [(s.bought_on, s.price) for s in kept if s.bought_on and s.price]
    paid = [(e.day, e.body.price) for _, log in whole for e in log.kinds(Arrival) if e.body.price]
    return Stores(found, tuple(supplies.removed(desk.conn)), by_month(bought, paid, today))


def keep(desk: Desk, one: Supply) -> int:
    """A count is of today where it changed. Raises Refused naming the field."""
    if not one.name.strip():
        raise Refused("Give it a name.", "name")
    for name in ("opened_on", "bought_on"):
        day = getattr(one, name)
        if day is not None and day > desk.now.date():
            raise Refused("That day has not come yet.", name)
    check(one)
    with transaction(desk.conn):
        if one.id:
            before = supplies.supply(desk.conn, one.id)
            if (before.left, before.unit) == (one.left, one.unit):
                one = replace(one, counted_on=before.counted_on)
        return supplies.save(desk.conn, one, desk.now)


def of(desk: Desk, supply_id: int) -> Supply:
    return supplies.supply(desk.conn, supply_id)


def remove(desk: Desk, supply_id: int, back: bool = False) -> None:
    with transaction(desk.conn):
        supplies.supply(desk.conn, supply_id)
        supplies.remove(desk.conn, supply_id, None if back else desk.now)


def running_out(desk: Desk) -> list[str]:
    """A sentence for each thing that is low, gone or past its date."""
    return [words(x) for x in see(desk).lasts if x.to_buy] if supplies.supplies(desk.conn) else []


def words(x: Lasts) -> str:
    if x.state == "gone":
        return f"{x.supply.name}: none left."
    if x.state == "past" and x.ends_on is not None:
        return f"{x.supply.name}: past its date since {x.ends_on:%-d %b %Y}."
    if x.state == "low" and x.until is not None:
        return f"{x.supply.name}: lasts until about {x.until:%-d %b}."
    if x.state == "soon" and x.ends_on is not None:
        return f"{x.supply.name}: good until {x.ends_on:%-d %b %Y}."
    if x.state == "unknown":
        good = f"good until {x.ends_on:%-d %b %Y}; " if x.ends_on is not None else ""
        return f"{x.supply.name}: {good}how long it lasts cannot be told: {_wanting(x)}."
    return f"{x.supply.name}: enough."


def _wanting(x: Lasts) -> str:
    return "count what is left" if x.left is None else "say how much is used a day"


def shopping(desk: Desk, seen: Stores) -> tuple[ToGet, ...]:
    """What runs out first, then animals of batches that are near, then what is missing for them."""
    found = [ToGet(x.supply.name, words(x).split(": ", 1)[1], "") for x in seen.lasts if x.to_buy]
    last = desk.now.date() + AHEAD
    for tank, log in _house(desk):
        near = [
            b for b in batches.batches(desk.conn, tank.id, log)
            if b.arrived is None and b.items and b.planned <= last
        ]  # fmt: skip
        for batch in near:
            for animals in batch.items:
                kind = desk.reference.species.get(animals.species, desk.reference.species["unknown"])
                what = f"{animals.count} {plural(kind.name.lower(), animals.count)}"
                found.append(
                    ToGet(what, f"{tank.name}, {batch.name}, not before {batch.planned:%-d %b}", "; ".join(_ask(kind)))
                )
        kinds = [desk.reference.species.get(a.species) for b in near for a in b.items]
        found += list(_missing(desk, tank, [k for k in kinds if k]))
    return tuple(found)


def _ask(kind: Species) -> Iterator[str]:
    """What to ask of whoever sells it."""
    yield (
        f"how long here, and does it eat? {kind.feeding}"
        if kind.refusal == "high"
        else "how long here, and what it eats"
    )
    if kind.sex_ratio not in ("any", "unknown", ""):
        yield f"sexes: {kind.sex_ratio}"
    if kind.tank_bred:
        yield f"tank-bred or wild? ({kind.tank_bred})"
    if kind.caution:
        yield kind.caution


def _missing(desk: Desk, tank: Tank, coming: list[Species]) -> Iterator[ToGet]:
    jumpers = [k.name.lower() for k in coming if k.jumps]
    if jumpers and not tank.lid:
        yield ToGet("A lid", f"{tank.name}: {plural(jumpers[0], 2)} jump", "")
    if coming and not tank.conditioner_ml_per_100l and not tank.salinity_g_kg:
        yield ToGet("Water conditioner", f"{tank.name}: none is set down", "how many mL for 100 L")
    if tank.marine and len(house.instruments(desk.conn)) < 2:
        yield ToGet("A second instrument for salinity", f"{tank.name}: one alone can be wrong unseen", "")
