"""The demo's old tank: two and a half years of a planted tank with its mistakes and mends, from a fixed seed.

What was done is set down first; the truth is then run through once, and what was tested is read off it.
"""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np

from jarbloom.core.bloom.truth import look_at, run_truth
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.readings import read
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Filter, Heater, Source, Tank
from jarbloom.core.vessel.volume import net_l
from jarbloom.deeds.desk import Desk
from jarbloom.devices.stand_in_camera import Scene, Shoal, photo
from jarbloom.formats import picture
from jarbloom.store import photo_files
from jarbloom.store.secret_file import folder_of

DAYS = 905
MISREAD = 0.06
STEP_H = 4.0  # of the truth: years go by the hour too slowly for a demo
TAP_RINSE = 339
RARER_FROM = 610  # from here on water is changed every ten days in place of every week: the drift of the record
TRUTH = {"mu_a": 0.3, "mu_b": 0.2, "lag_a": -0.5, "plants": 0.4, "k_a": -0.4, "k_b": -0.3}
EVENTS = [
    (0.4, 0.0),
    (0.6, 0.0),
    (0.5, 0.0),
    (0.4, 0.0),
    (2.2, 2.2),
]  # the seed, then each rinse; the last under the tap
KH_OF_PH = 0.9  # of the pH with the logarithm of alkalinity, as the model has it at its middle
WARMEST = 205  # day of the year
LIVES: tuple[tuple[int, dict[str, Any]], ...] = (
    (33, {"species": "harlequin_rasbora", "count": 12, "length_cm": 2.8, "seller": "a shop", "price": 36.0}),
    (61, {"species": "bronze_corydoras", "count": 6, "length_cm": 3.5, "seller": "a keeper nearby"}),
    (118, {"species": "cherry_shrimp", "count": 20, "length_cm": 1.4, "seller": "a keeper nearby"}),
    (240, {"species": "honey_gourami", "count": 2, "length_cm": 3.2, "seller": "a shop", "price": 14.0}),
    (826, {"species": "bronze_corydoras", "count": 3, "length_cm": 4.5, "seller": "a keeper nearby"}),
)  # fmt: skip
SHOALS = {
    "harlequin_rasbora": Shoal(0, 74, 32, 0.35, (201, 122, 88), stripe=True),
    "bronze_corydoras": Shoal(0, 92, 42, 0.97, (150, 124, 92)),
    "cherry_shrimp": Shoal(0, 30, 11, 0.99, (178, 62, 48), legs=True),
    "honey_gourami": Shoal(0, 84, 50, 0.15, (214, 166, 72)),
}
DIED: tuple[tuple[int, str, int, str, str], ...] = (
    (39, "harlequin_rasbora", 1, "found", "settling in"),
    (352, "harlequin_rasbora", 1, "found", "after the tap rinse"),
    (355, "cherry_shrimp", 3, "found", "after the tap rinse"),
    (431, "harlequin_rasbora", 1, "not_found", "old age or the heat"),
    (790, "honey_gourami", 1, "found", "old age"),
)  # fmt: skip


MEASURED: tuple[tuple[int, str, float], ...] = (  # the catfish grow slower than their row
    (95, "harlequin_rasbora", 3.3), (190, "bronze_corydoras", 4.3), (260, "harlequin_rasbora", 3.9),
    (420, "bronze_corydoras", 5.0), (505, "honey_gourami", 4.4), (715, "bronze_corydoras", 5.6),
)  # fmt: skip
SNAILS = ((862, 6), (874, 11), (886, 17), (897, 30))  # on the front glass in the evening: food lies about


NOTED = (
    "Cut back the stems.",
    "New leaves on the fern.",
    "Wiped the front glass.",
    "Snails on the glass, more than ever.",
)


def alcove(desk: Desk) -> tuple[Tank, list[Entry]]:
    """The tank and its log, up to now."""
    tank = Tank(
        "Alcove 180", desk.now.date() - timedelta(days=DAYS), 100, 42, 48, waterline_cm=4, substrate="sand",
        substrate_cm=5, temp_c=24.5, ph=7.3, kh_dkh=6.0,
        filters=(Filter("canister", "canister", 900, 0.62, "foam", 3.0),),
        heaters=(Heater(150.0, 24.5),), lid=True, planted=True, source=Source(7.5, 7.0, 0.0, 1.2, 10.0, 52.0),
        conditioner_ml_per_100l=20.0, target_mg_n_l=1.0,
    )  # fmt: skip
    years = _Years(desk, tank)
    years.cycle()
    years.routine()
    years.mishaps()
    years.animals()
    years.photos(folder_of(desk.conn))
    return tank, years.tested()


class _Years:
    def __init__(self, desk: Desk, tank: Tank) -> None:
        self.desk, self.tank, self.log = desk, tank, list[Entry]()
        self.rng = np.random.default_rng(180)

    def at(self, day: int, hour: int, minute: int = 0) -> datetime:
        d = self.tank.started + timedelta(days=day)
        return datetime(d.year, d.month, d.day, hour, minute, tzinfo=self.desk.now.tzinfo)

    def add(self, day: int, hour: int, kind: str, note: str = "", **body: Any) -> None:
        at = self.at(day, hour)
        if at <= self.desk.now:
            self.log.append(Entry(KINDS[kind].from_raw(body), at, note, "", self.desk.preferences.zone))

    def change(self, day: int, share: float, note: str = "") -> None:
        litres = share * net_l(self.tank)
        self.add(day, 18, "change", note, litres=litres, fraction=share, typed=f"{share:.0%}")

    def cycle(self) -> None:
        self.add(0, 12, "conditioner", ml=32)
        self.add(
            0, 13, "bacteria", "a handful of foam out of a tank that has run for years", source="borrowed", share=20
        )
        target = self.tank.target_mg_n_l
        for day in (0, 4, 8, 11, 14, 17, 20, 23, 26, 29):
            self.add(
                day, 19, "dose", amount=target, unit="mg/L", mg_n=target * net_l(self.tank), typed=f"{target:g} mg/L"
            )
        self.change(32, 0.5, "before the first animals")

    def routine(self) -> None:
        day = 40
        while day <= DAYS:
            if not 424 <= day <= 440:  # away
                self.change(day, 0.25)
            day += 7 if day < RARER_FROM else 10
        for day in range(60, DAYS, 93):
            self.add(day + 1, 17, "media", how="tap" if day == TAP_RINSE else "tank_water",
                     share=100 if day == TAP_RINSE else 50)  # fmt: skip
        for day in range(90, DAYS, 45):
            self.add(day, 9, "note", text=NOTED[day // 45 % len(NOTED)])
        for day in range(75, DAYS, 90):
            self.add(day, 19, "measured", gh=round(10 + self.rng.normal(0, 0.5)), phosphate=round(0.4 + day / 2200, 1))

    def photos(self, folder: Path | None) -> None:
        """One every few weeks, and one on the day after the tap rinse; drawn, and kept as any other."""
        if folder is None:
            return
        for day in (2, 45, 124, 210, 318, 345, 460, 560, 655, 740, 830, 898):
            at = self.at(day, 15, 10)
            living = {a.species: a.count for a in stock(self.log, at.date())}
            shoals = [replace(SHOALS[k], count=min(n, 14)) for k, n in living.items() if k in SHOALS]
            haze = 0.5 if day == 345 else 0.0
            scene = Scene(at, shoals, min(0.25 + day / 700, 1.0), min(0.1 + 0.25 * (day > 600) + day / 4000, 1.0), haze,
                          0.25 + 0.45 * (day > RARER_FROM))  # fmt: skip
            kept = picture.keep(photo(scene, seed=day))
            file = photo_files.put(folder, kept.whole, kept.small)
            self.add(day, 15, "photo", file=file, width=kept.width, height=kept.height,
                     text="milky on the day after the rinse" if haze else "")  # fmt: skip

    def mishaps(self) -> None:
        self.add(344, 20, "observation", "shrimp climb", signs=["fast_gills"], text="restless, at the surface")
        self.change(344, 0.4, "nitrite showed for the first time in a year")
        self.change(346, 0.3, "still there")
        self.add(420, 10, "new_thing", "for the heat", what="a fan over the water")
        self.add(815, 8, "power", hours=9, where="closed")
        self.add(868, 18, "buffer", "crushed coral went in too", grams=8)

    def animals(self) -> None:
        for day, body in LIVES:
            self.add(day, 16, "arrival", **body)
        for day, species, count, found, cause in DIED:
            self.add(day, 8, "death", species=species, count=count, body=found, cause=cause)
        for day, species, cm in MEASURED:
            self.add(day, 18, "length", species=species, count=1, length_cm=cm, text="against the scale on the glass")
        for day, seen in SNAILS:
            self.add(day, 21, "uninvited", what="snails", count=seen, text="on the front glass")
        self.add(300, 9, "birth", species="cherry_shrimp", count=12)
        self.add(520, 17, "count", species="cherry_shrimp", count=29)

    def tested(self) -> list[Entry]:
        """The log with what was read: ammonia and nitrite often at first and when something was wrong."""
        start = self.at(0, 0)
        path = run_truth(
            self.tank,
            sorted(self.log, key=lambda e: e.at),
            start,
            self.desk.now,
            self.desk.reference,
            TRUTH,
            EVENTS,
            STEP_H / 24,
        )
        early = {*range(2, 33, 2), 35, 37, 40, 44, 48, 55, 62}
        upset = {341, 343, 344, 345, 346, 347, 348, 350, 353, 357}
        for day in sorted({*range(2, DAYS + 1, 7), *early, *upset}):
            often = day in early or day in upset or day % 28 == 2
            wanted = (["ammonia", "nitrite"] if often else []) + (["nitrate"] if day > 20 and day % 7 == 2 else [])
            wanted += ["ph", "kh"] if day % 14 == 2 and day > 30 else []
            wanted += ["temp"] if day > 30 and day % 7 == 2 else []
            moment = self.at(day, 18, 30) if day < DAYS else self.desk.now - timedelta(hours=3)
            if wanted and moment <= self.desk.now:
                self.log.append(self._test(moment, wanted, path, int((moment - start).total_seconds() / 3600 / STEP_H)))
        return sorted(self.log, key=lambda e: e.at)

    def _test(self, at: datetime, wanted: list[str], path: Any, k: int) -> Entry:
        truth = {"ammonia": path.tan, "nitrite": path.no2, "nitrate": path.no3}
        ph = float(path.ph[k, 0])
        typed = {
            "ph": f"{round(ph * 10) / 10:.1f}",
            "kh": f"{max(round(self.tank.kh_dkh * 10 ** ((ph - self.tank.ph) / KH_OF_PH) * 2) / 2, 0.5):g}",
            "temp": f"{self._warmth(at):.1f}",
        }
        for q in ("ammonia", "nitrite", "nitrate"):
            if q in wanted:
                typed[q] = look_at(self.tank.kit.scale(q), float(truth[q][k, 0]), MISREAD, self.rng)
        return Entry(
            Tested(readings=tuple(read(q, typed[q], self.tank.kit) for q in wanted)),
            at,
            zone=self.desk.preferences.zone,
        )

    def _warmth(self, at: datetime) -> float:
        """The heater holds it; in a hot summer the room does not."""
        season = math.cos(2 * math.pi * (at.timetuple().tm_yday - WARMEST) / 365.25)
        hot = 3.1 if at.date() > self.tank.started + timedelta(days=700) else 1.9
        return self.tank.temp_c + max(0.0, hot * (season - 0.35) / 0.65) + float(self.rng.normal(0, 0.15))
