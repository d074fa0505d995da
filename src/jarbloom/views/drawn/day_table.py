"""The table behind the chart: one row a day, so that every value can be read without seeing it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, SURE
from jarbloom.core.model.kit import NITROGEN
from jarbloom.units import figure


@dataclass(frozen=True)
class DayRow:
    """A day of the table behind the chart."""

    x: float
    day: date
    label: str
    sure: str
    likely: str
    best: str
    load: str
    ammonia: str
    nitrite: str
    nitrate: str
    events: str
    today: bool


NITROGEN_BANDS = ("tan", "no2", "no3")


def day_rows(s: Situation, shown: list[int], xs: list[float]) -> tuple[DayRow, ...]:
    f, rows = s.forecast, []
    events: dict[date, list[str]] = {}
    for e in s.entries.since(f.days[shown[0]]) if shown else ():
        day = e.day
        if e.kind == "test":
            text = "read " + ", ".join(f"{r.quantity} {r.typed}" for r in e.readings if r.quantity in NITROGEN)
        else:
            text = {
                "dose": "dose",
                "change": "water change",
                "arrival": "arrival",
                "birth": "birth",
                "death": "found dead",
                "given": "given away",
                "moved": "moved out",
                "media": "media",
                "bacteria": "bacteria",
            }.get(e.kind, "")
        if text:
            events.setdefault(day, []).append(text)
    spans = {
        name: list(zip(f.course(name, SURE, shown), f.course(name, AT_BEST, shown), strict=True))
        for name in NITROGEN_BANDS
    }
    capacity = zip(*(f.course("capacity", level, shown) for level in (SURE, LIKELY, AT_BEST)), strict=True)
    for n, (k, px, (sure, likely, best)) in enumerate(zip(shown, xs, capacity, strict=True)):
        day = f.days[k]
        load = f.load_adult if s.living else 0.0
        load += sum(o.load for o in f.batches if o.planned <= day)

        def span(name: str, n: int = n) -> str:
            low, high = spans[name][n]
            return f"{figure(low, 2)} to {figure(high, 2)}" if high >= 0.05 else "near 0"

        rows.append(
            DayRow(
                px,
                day,
                f"{day:%a %-d %b}",
                figure(sure, 2),
                figure(likely, 2),
                figure(best, 2),
                figure(load, 2),
                span("tan"),
                span("no2"),
                span("no3"),
                "; ".join(events.get(day, [])),
                k == f.today,
            )
        )
    return tuple(rows)
