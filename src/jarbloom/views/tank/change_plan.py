"""The plan of water changes as the desk shows it: its rows, the recipe, other ways beside it, and what was promised."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.upset.promise import last_promise
from jarbloom.core.upset.response import Response, respond
from jarbloom.core.water.mixing import salt_g
from jarbloom.units import NBSP, figure


@dataclass(frozen=True)
class ChangeRow:
    when: str
    amount: str
    share: str
    tan: str
    nh3: str
    nh3_range: str
    no2: str
    ph: str
    now: bool


@dataclass(frozen=True)
class Way:
    """One plan beside the others: how often, how much, when it is safe, and the work."""

    name: str
    short: str
    changes: str
    litres: str
    safe: str
    effort: str
    chosen: bool


def _when(at: datetime, now: datetime) -> str:
    return "now" if at <= now else (f"today {at:%H:%M}" if at.date() == now.date() else f"{at:%a %H:%M}")


def change_rows(response: Response, s: Situation) -> tuple[ChangeRow, ...]:
    def move(a: float, b: float) -> str:
        return f"{figure(a, 2)} to {figure(b, 2)}"

    return tuple(
        ChangeRow(
            _when(c.at, s.now),
            s.units.volume(c.litres),
            f"{100 * c.fraction:.0f} %",
            move(c.tan_before, c.tan_after),
            move(c.nh3_before, c.nh3_after.seen),
            f"{figure(c.nh3_after.low, 2)} to {figure(c.nh3_after.high, 2)}",
            move(c.no2_before, c.no2_after),
            figure(c.ph_after, 2),
            k == 0 and c.at <= s.now,
        )
        for k, c in enumerate(response.changes)
    )


def recipe_rows(response: Response, s: Situation) -> tuple[tuple[str, str], ...]:
    mix = response.refill
    if mix is None:
        return ()
    lines = [
        ("new water", s.units.volume(mix.litres)),
        ("hot tap", f"{s.units.volume(mix.hot_l)} at {s.units.temp(s.tank.source.hot_c)}"),
        ("cold tap", f"{s.units.volume(mix.cold_l)} at {s.units.temp(s.tank.source.cold_c)}"),
        ("comes to", s.units.temp(mix.temp_c)),
    ]
    if mix.conditioner_ml is None:
        lines.append(("conditioner", f"by its label, for {mix.conditioner_for}"))
    else:
        lines.append(("conditioner", f"{figure(mix.conditioner_ml, 2)} mL, for {mix.conditioner_for}"))
    if s.levels.salinity_g_kg > 0:
        grams = salt_g(mix.litres, s.levels.salinity_g_kg, s.tank.salt_factor, mix.temp_c)
        lines.append(("salt water", "mixed and aired a day before; in an emergency two hours under strong air"))
        lines.append((f"salt for {figure(s.levels.salinity_g_kg)}{NBSP}g/kg", f"{grams:.0f}{NBSP}g, dissolved first"))
    if abs(mix.step_c) >= 0.5:
        lines.append(("moves the tank by", s.units.temp_step(mix.step_c)))
    return tuple(lines)


ELSE = (
    "What else there is: a healthy tank with like water for the animals; media from one in the filter, which carries "
    "its part the same day; bind the ammonia by the label, with air running, and test again."
)


def reached_words(response: Response, s: Situation) -> str:
    if response.no_better:
        return (
            "No change with this water: every share of it would leave more free ammonia than none. Find water of like "
            f"pH and less ammonia, raise the KH slowly; water changes alone do not get below the limits. {ELSE}"
        )
    if not response.changes and response.reached:
        return "The readings are below the limits."
    held = {
        "ph": " Kept small: the new water differs in pH, and the animals bear no larger step.",
        "kh": " Kept small: the new water differs in KH, and the animals bear no larger step.",
        "water": " Kept to the new water that is ready at a time.",
    }.get(response.held_by, "")
    if not response.reached or response.within_limits_at is None:
        return (
            "Water changes alone do not get below the limits within three days in nine of ten courses: test the tap "
            f"water, use another source, and ask a veterinarian or fish-health professional.{held} {ELSE}"
        )
    after = _when(response.within_limits_at, s.now)
    when = "first change" if after == "now" else f"change of {after}"
    return f"In nine of ten courses below the limits after the {when}, if the readings go as expected.{held}"


def ways(s: Situation) -> tuple[Way, ...]:
    """The plan by each school of corrective changes, the chosen one first; nothing is planned where nothing is over."""
    if s.response is None:
        return ()
    found = [_way(s.response, s, True)]
    for key, school in s.reference.schools.corrective.items():
        if key != s.tank.corrective:
            other = respond(s.tank, s.levels, s.response.source, school, s.now, s.findings.change_most)
            found.append(_way(other, s, False))
    return tuple(found)


def _way(r: Response, s: Situation, chosen: bool) -> Way:
    n, safe = len(r.changes), "not by changes alone"
    if r.reached and r.within_limits_at is not None:
        hours = (r.within_limits_at - s.now) / timedelta(hours=1)
        later = f"{figure(hours / 24, 2)} days" if hours >= 36 else f"{hours:.0f} hours"
        safe = "after the first" if hours < 1 else later
    if not n:
        return Way(r.school.name, r.school.short, "none", "", safe, "", chosen)
    return Way(
        r.school.name, r.school.short, f"{n} change{'s' if n != 1 else ''}", s.units.volume(r.litres), safe,
        f"about {5 * round(r.minutes / 5):.0f} minutes", chosen,
    )  # fmt: skip


HIGHER = (
    "more than new water explains: something gives off ammonia still (a body, food, the bed), or the new water brought "
    "some. Test the tap water, look for the body."
)
LOWER = (
    "less than new water explains: the bloom took its part, or a test was off. Rely on it once a second test says so."
)


def promise_words(s: Situation) -> tuple[str, ...]:
    """What the last change was to come to, and what was read since."""
    found = last_promise(s.tank, s.entries, s.levels, s.now) if s.living else None
    if found is None:
        return ()
    told, at = found.told, found.entry.at
    said = [
        f"{s.units.volume(told.litres)} at {at:%a %H:%M}: free ammonia from {figure(told.nh3_before, 2)} to about "
        f"{figure(told.nh3_after.seen, 2)} ({figure(told.nh3_after.low, 2)} to {figure(told.nh3_after.high, 2)}) at pH "
        f"{figure(told.ph_after, 2)}, nitrite from {figure(told.no2_before, 2)} to "
        f"{figure(told.no2_after, 2)}{NBSP}mg/L."
    ]
    for k in found.kept:
        span = f"{figure(k.low, 2)} to {figure(k.high, 2)}{NBSP}mg/L"
        if k.read is None:
            said.append(f"{k.quantity.capitalize()}, expected {span}: not read since.")
            continue
        word = {"kept": "as expected.", "higher": HIGHER, "lower": LOWER}[k.stands]
        read = f"{k.read.reading.typed} read at {k.read.at:%a %H:%M}"
        said.append(f"{k.quantity.capitalize()}, expected {span}; {read}: {word}")
    return tuple(said)
