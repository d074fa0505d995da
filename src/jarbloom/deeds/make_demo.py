"""The demo: a few made-up tanks in one house, from fixed seeds, dated relative to today."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import date, datetime, timedelta
from typing import Any

import numpy as np

from jarbloom.core.bloom.truth import look_at, run_truth
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.readings import read
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.supply import Supply
from jarbloom.core.model.tank import Decor, Filter, Heater, Instrument, Source, Tank, Water
from jarbloom.core.setup.fill import standing
from jarbloom.core.vessel.volume import net_l
from jarbloom.deeds.demo_truth import TRUTHS, heard_before
from jarbloom.deeds.demo_years import alcove
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.look import run_of
from jarbloom.store import batches, house, journal, probes, supplies, tanks
from jarbloom.store.db import transaction

MISREAD = 0.08  # how often the demo's keeper takes a neighbouring colour


FIRST_BATCH: tuple[dict[str, Any], ...] = (
    {"species": "harlequin_rasbora", "count": 10, "length_cm": 3.0, "seller": "a shop", "price": 30.0,
     "tank_bred": "yes"},
    {"species": "bronze_corydoras", "count": 6, "length_cm": 3.8, "seller": "a keeper nearby", "tank_bred": "yes"},
)  # fmt: skip


@dataclass
class _Story:
    """A tank being lived through day by day: what is done depends on what is read."""

    desk: Desk
    tank: Tank
    z: dict[str, float]
    seed: int
    events: list[tuple[float, float]] = field(default_factory=list)
    log: list[Entry] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.rng = np.random.default_rng(self.seed)

    def at(self, day: int, hour: int, minute: int = 0) -> datetime:
        d = self.tank.started + timedelta(days=day)
        return datetime(d.year, d.month, d.day, hour, minute, tzinfo=self.desk.now.tzinfo)

    def add(self, at: datetime, kind: str, note: str = "", **body: Any) -> None:
        if at <= self.desk.now:
            self.log.append(Entry(KINDS[kind].from_raw(body), at, note, "", self.desk.preferences.zone))

    def dose(self, at: datetime) -> None:
        target = self.tank.target_mg_n_l
        self.add(at, "dose", amount=target, unit="mg/L", mg_n=target * net_l(self.tank), typed=f"{target:g} mg/L")

    def change(self, at: datetime, share: float, note: str = "") -> None:
        self.add(at, "change", note, litres=share * net_l(self.tank), fraction=share, typed=f"{share:.0%}")

    def test(self, at: datetime, *quantities: str) -> dict[str, bool]:
        """Read these; returns which showed the lowest step."""
        if at > self.desk.now:
            return {}
        start = self.at(0, 0)
        path = run_truth(self.tank, self.log, start, at, self.desk.reference, self.z, self.events)
        truth = {"ammonia": path.tan, "nitrite": path.no2, "nitrate": path.no3}
        k = int((at - start).total_seconds() / 3600)
        found = []
        for q in quantities:
            if q in truth:
                typed = look_at(self.tank.kit.scale(q), float(truth[q][k, 0]), MISREAD, self.rng)
            elif q == "ph":
                typed = f"{round(float(path.ph[k, 0]) * 5) / 5:.1f}"
            elif q == "kh":
                typed = f"{round(float(path.end.alk[0]) / 0.3567)}"
            else:
                typed = f"{self.tank.temp_c + 0.1 * round(float(self.rng.normal(0, 2))):.1f}"
            found.append(read(q, typed, self.tank.kit))
        self.log.append(Entry(Tested(readings=tuple(found)), at, zone=self.desk.preferences.zone))
        return {r.quantity: r.low <= 0 for r in found}

    def save(self) -> Tank:
        kept = tanks.add(self.desk.conn, self.tank, self.desk.now)
        for entry in sorted(self.log, key=lambda e: e.at):
            act = journal.new_act(self.desk.conn, kept.id, "log", entry.at, "Made for the demo")
            journal.write(self.desk.conn, kept.id, act, replace(entry, recorded_at=entry.at), entry.at)
        return kept


def make_demo(desk: Desk) -> None:
    """Write the demo's tanks into an empty database. The same day and seeds give the same tanks."""
    with transaction(desk.conn):
        _house(desk)
        _sunroom(desk)
        _hall(desk)
        _desk_28(desk)
        _landing(desk)
        _alcove(desk)
    for days_ago in (16, 12, 8, 5, 3):
        _looked_at(desk, "sunroom-112", desk.now - timedelta(days=days_ago))


def _looked_at(desk: Desk, slug: str, at: datetime) -> None:
    """The forecast as it was made on an earlier day, with what was in the log by then."""
    tank = tanks.tank(desk.conn, slug)
    known = desk.log(tank.id).until(at)
    run_of(replace(desk, now=at), tank, known, batches.batches(desk.conn, tank.id, known))


def _plan(desk: Desk, tank: Tank, name: str, in_days: int, **animals: int) -> None:
    batch = batches.add(desk.conn, tank.id, name, desk.now.date() + timedelta(days=in_days))
    for species, count in animals.items():
        batches.set_count(desk.conn, batch, species, count)


def _started(desk: Desk, days_ago: int) -> date:
    return desk.now.date() - timedelta(days=days_ago)


def _house(desk: Desk) -> None:
    """The tap and the osmosis of the house, and two instruments, one of them long not calibrated."""
    today = desk.now.date()
    tap = Source(7.6, 9.0, 0.0, 2.5, 12.0, 52.0, 14.0, 380.0, 0.4, "chloramine", 0.6, "Tap")
    soft = Source(6.2, 0.3, 0.0, 0.1, 14.0, 52.0, 0.2, 9.0, 0.0, "none", None, "Osmosis")
    rain = Source(6.4, 0.8, 0.02, 0.4, 10.0, 52.0, 1.0, 25.0, 0.02, "none", None, "Rain barrel")
    for kind, source, days, note in (
        ("tap", tap, 40, "water works’ report and our own kit"), ("ro", soft, 12, ""), ("rain", rain, 75, ""),
    ):  # fmt: skip
        house.save_water(desk.conn, Water(source.name, kind, source, today - timedelta(days=days), note), desk.now)
    for name, kind, days in (("Refractometer", "refractometer", 12), ("Glass hydrometer", "hydrometer", 95)):
        one = Instrument(name, kind, today - timedelta(days=days), 25.0)
        house.save_instrument(desk.conn, one, desk.now)
    counted = today - timedelta(days=6)
    for supply in (
        Supply("Conditioner", "conditioner", 180.0, "mL", counted, price=9.0, bought_on=today - timedelta(days=130)),
        Supply("Salt for the Landing", "salt", 4.0, "kg", counted, price=18.0, bought_on=today - timedelta(days=40)),
        Supply("Granules", "food", 60.0, "g", counted, today - timedelta(days=70), 180.0),
        Supply("Nitrate kit", "kit", 40.0, "tests", counted, best_before=today - timedelta(days=12), tests="nitrate"),
    ):  # fmt: skip
        supplies.save(desk.conn, supply, desk.now)


def _alcove(desk: Desk) -> None:
    """Two and a half years old: the record of years."""
    tank, log = alcove(desk)
    story = _Story(desk, tank, {}, seed=180)
    story.log = log
    story.save()


def _landing(desk: Desk) -> None:
    """A small sea water tank on live rock, in its second week: die-off rising, UV and skimmer off until a day."""
    tank = Tank(
        "Landing 60", _started(desk, 10), 60, 35, 36, waterline_cm=3, shape="bow_front", bow_cm=6, outside=True,
        glass_mm=8, substrate="sand", substrate_cm=2, substrate_back_cm=3, decor=(Decor("reef_rock", 6.0, "kg"),),
        measured_l=58.0, temp_c=25.5, ph=8.1, kh_dkh=8.0, salinity_g_kg=35.0,
        filters=(Filter("hang-on", "hang_on", 600, 0.6, "foam", 0.6),),
        heaters=(Heater(50.0, 25.5), Heater(50.0, 25.0)), turnover="brisk", surface="broken", room_c=19.0,
        devices=("skimmer", "uv"), lid=False,
        source=Source(6.2, 0.3, 0.0, 0.1, 14.0, 52.0, 0.2, 9.0, 0.0, "none", None, "Osmosis"), school="living_rock",
        pace="calendar",
    )  # fmt: skip
    z, events = TRUTHS["landing-60"]
    story = _Story(desk, tank, z, seed=60, events=events)
    steps = {s.step.key: s.step for s in standing(tank, (), desk.preferences.units, story.at(0, 10))}
    plan = {"stand": (0, 9), "rinse": (0, 10), "place": (0, 11), "leak": (0, 12), "fill": (0, 14), "start": (0, 15),
            "salt": (0, 16), "settle": (0, 17), "heat": (1, 18), "confirm": (2, 19), "stable": (2, 20)}  # fmt: skip
    for key, (day, hour) in plan.items():
        story.add(story.at(day, hour), "step", step=key, title=steps[key].title, amount=steps[key].amount)
    story.log.append(
        Entry(Tested(readings=(read("salinity", "35.2 g/kg", tank.kit),)), story.at(2, 19), zone=desk.preferences.zone)
    )
    story.add(story.at(3, 11), "rock", "came in wet paper", kg=6, condition="shipped")
    back = [story.at(3 + d, 11).date() for d in (9, 14)]
    story.add(story.at(3, 12), "off", device="uv", until=back[0])
    story.add(story.at(3, 12), "off", device="skimmer", until=back[1])
    for day in range(4, 11, 2):
        story.test(story.at(day, 18), "ammonia", "nitrite", *(["ph"] if day == 6 else []))
    story.add(story.at(8, 20), "topoff", litres=1.2)
    kept = story.save()
    _plan(desk, kept, "Batch one", 30, scarlet_hermit=3, trochus_snail=2)
    _plan(desk, kept, "Batch two", 46, neon_goby=1)
    probes.connect_probe(desk.conn, kept.id, "http://127.0.0.1:8121/v1/landing-60/reading", True)
    heard_before(desk, kept, story.log)


def _sunroom(desk: Desk) -> None:
    """Day 22 of a measured-dose cycle: ammonia goes in a day, nitrite is on its way down."""
    tank = Tank(
        "Sunroom 112", _started(desk, 22), 80, 35, 45, waterline_cm=4, substrate="sand", substrate_cm=4, temp_c=26.0,
        ph=7.1, kh_dkh=8.0, filters=(Filter("canister", "canister", 1000, 0.62, "foam", 2.1),),
        heaters=(Heater(75.0, 26.0), Heater(75.0, 25.5)), devices=("uv", "carbon"), lid=True, planted=False,
        source=Source(7.2, 8.0, 0.0, 1.0, 12.0, 52.0), conditioner_ml_per_100l=20.0,
    )  # fmt: skip
    story = _Story(desk, tank, TRUTHS["sunroom-112"][0], seed=112)
    story.add(story.at(0, 15), "conditioner", ml=22)
    story.add(story.at(0, 15, 40), "note", text="Filled and warm. Filter runs, no smell, no leaks.")
    story.dose(story.at(0, 19))
    for day in [*range(2, 22, 2), 21, 22]:
        quantities = ["ammonia", "nitrite"] + (["nitrate"] if day % 4 == 2 else [])
        quantities += ["ph", "temp"] if day % 6 == 0 else []
        clean = story.test(story.at(day, 17 if day == 22 else 19), *quantities)
        if clean.get("ammonia") and day < 22 and story.log[-1].readings[1].typed != "5":
            story.dose(story.at(day, 19, 30))
        if day == 16:
            story.change(story.at(day, 20), 0.3, "KH was getting low")
    kept = story.save()
    _plan(desk, kept, "Batch one", 6, kuhli_loach=6, nerite_snail=4)
    _plan(desk, kept, "Batch two", 20, harlequin_rasbora=8)


def _hall(desk: Desk) -> None:
    """Two weeks after its first batch: fed heavily over a weekend, the cartridge thrown away, a spike, one dead."""
    tank = Tank(
        "Hall 96", _started(desk, 40), 80, 35, 40, waterline_cm=3, substrate="gravel", substrate_cm=4, temp_c=25.0,
        ph=7.8, kh_dkh=9.0, filters=(Filter("hang-on", "hang_on", 800, 0.6, "wool", 1.2),), heaters=(Heater(100.0),),
        lid=True, planted=True,
        source=Source(7.8, 9.0, 0.0, 1.0, 12.0, 52.0), conditioner_ml_per_100l=20.0, target_mg_n_l=1.0,
    )  # fmt: skip
    z, events = TRUTHS["hall-96"]
    story = _Story(desk, tank, z, seed=96, events=events)
    story.add(story.at(0, 11), "conditioner", ml=19)
    story.add(story.at(0, 12), "bacteria", source="borrowed", share=20)
    story.dose(story.at(0, 18))
    for day in range(2, 26, 2):
        clean = story.test(story.at(day, 18, 30), "ammonia", "nitrite", *(["nitrate", "ph"] if day % 8 == 0 else []))
        if clean.get("ammonia") and day < 24:
            story.dose(story.at(day, 19))
        if day in (12, 20):
            story.change(story.at(day, 19, 30), 0.4, "for KH and nitrate")
    story.change(story.at(26, 9), 0.5, "before the first animals")
    story.test(story.at(26, 11), "ammonia", "nitrite", "nitrate", "ph", "temp")
    batch_day = story.at(26, 16)
    for day in [27, 28, 29, 30, 31, 33, 35]:
        story.test(story.at(day, 18, 30), "ammonia", "nitrite", *(["nitrate"] if day == 35 else []))
        story.add(story.at(day, 8), "feed", grams=0.15)
    kept_log = story.log
    story.log = [
        *kept_log,
        *(Entry(Arrival.from_raw(came), batch_day, zone=desk.preferences.zone) for came in FIRST_BATCH),
    ]
    story.add(story.at(27, 9), "count", species="harlequin_rasbora", count=10)
    story.add(story.at(27, 9, 2), "count", species="bronze_corydoras", count=6)
    story.change(story.at(34, 18), 0.25)
    story.add(story.at(37, 9), "media", "grey and slow, so a new cartridge went in", how="replaced", share=100)
    for day in (37, 38, 39):
        story.add(story.at(day, 10), "feed", "fed by a neighbour over the weekend", grams=3.0)
    story.test(story.at(39, 18, 30), "ammonia", "nitrite", "ph")
    last = desk.now - timedelta(minutes=50)
    story.add(desk.now - timedelta(hours=2), "observation", signs=["fast_gills", "hiding"], text="near the outlet")
    story.add(
        desk.now - timedelta(hours=1),
        "death",
        species="harlequin_rasbora",
        count=1,
        body="found",
        cause="not known yet",
    )
    story.test(last.replace(second=0, microsecond=0), "ammonia", "nitrite", "nitrate", "ph", "temp")
    kept = story.save()
    _name_batch(desk, kept, batch_day)
    _plan(desk, kept, "Batch two", 9, honey_gourami=2)


def _name_batch(desk: Desk, tank: Tank, day: datetime) -> None:
    """The batch that went in: its arrivals in the journal name it."""
    batch = batches.add(desk.conn, tank.id, "Batch one", day.date())
    batches.set_count(desk.conn, batch, "harlequin_rasbora", 10, 3.0)
    batches.set_count(desk.conn, batch, "bronze_corydoras", 6, 3.8)
    for entry in desk.log(tank.id).kinds(Arrival):
        act = journal.new_act(desk.conn, tank.id, "correct", entry.at, "Named the batch")
        body = replace(entry.body, batch=batch)
        named = replace(entry, body=body, supersedes=entry.id, recorded_at=entry.at)
        journal.write(desk.conn, tank.id, act, named, entry.at)
        journal.mark(desk.conn, act, entry.id, False)


def _desk_28(desk: Desk) -> None:
    """Still dry, being planned."""
    tank = Tank(
        "Desk 28", desk.now.date(), 40, 26, 30, waterline_cm=2, substrate="sand", substrate_cm=3, temp_c=24.0, ph=7.4,
        kh_dkh=6.0, filters=(Filter("sponge", "sponge", 260, 0.62, "foam", 0.5),), heaters=(Heater(50.0),), lid=True,
        planted=True, filled=False,
    )  # fmt: skip
    kept = tanks.add(desk.conn, tank, desk.now)
    _plan(desk, kept, "Batch one", 40, cherry_shrimp=10, nerite_snail=2)
    _plan(desk, kept, "Batch two", 60, ember_tetra=10)
