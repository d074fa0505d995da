"""The outlook page as geometry and words: one quantity in full, what-ifs beside it, the record of earlier forecasts."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.advice.outlook import Outlook
from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.names import plural
from jarbloom.core.bloom.ensemble import HORIZON_DAYS
from jarbloom.core.bloom.mending import habit_of
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.bloom.value import worthwhile
from jarbloom.core.bloom.whatif import Future
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.units import NBSP, figure, load_text, mg_text, percent
from jarbloom.views.drawn.fan import BY_KEY, QUANTITIES, SMALL, Fan, Quantity, fan
from jarbloom.views.drawn.record import Ladder, MetRow, ladder, met_row, record_words


@dataclass(frozen=True)
class Column:
    """One future beside the others."""

    name: str
    chart: Fan
    ready: str
    peaks: str
    under: str


@dataclass(frozen=True)
class Preset:
    name: str
    line: str
    day: str


@dataclass(frozen=True)
class OutlookPage:
    call: str
    because: str
    quantity: Quantity
    quantities: tuple[Quantity, ...]
    chart: Fan
    small: Fan
    why: tuple[str, ...]
    columns: tuple[Column, ...]
    presets: tuple[Preset, ...]
    ladder: Ladder | None
    record: str
    met: tuple[MetRow, ...]
    notes: tuple[str, ...]
    sooner: bool  # whether anything could bring readiness forward


def outlook_page(o: Outlook, key: str) -> OutlookPage:
    s, q = o.seen.situation, BY_KEY.get(key, QUANTITIES[0])
    call, because = _headline(s)
    met = [m for m in o.track.met if m.quantity == q.reading]
    return OutlookPage(
        call,
        because,
        q,
        QUANTITIES,
        fan(s, q, 1200, 380, met=met, table=True),
        fan(s, q, SMALL, 230, met=met),
        tuple(_why(s)),
        tuple(_column(s, q, o.futures, k) for k in range(len(o.futures))),
        tuple(presets(s)),
        ladder(s, o.track),
        record_words(o.track),
        tuple(met_row(m) for m in reversed(o.track.met))[:12],
        notes_for(s),
        s.tank.filled and not s.living and not s.school.fish_in and s.forecast.readiness.already < 0.5,
    )


def notes_for(s: Situation) -> tuple[str, ...]:
    """The explanations that this tank's state asks for: keys of data/notes.toml."""
    found = ["zero"]
    if not s.living or s.school.fish_in:
        nitrite = [r.seen for e in s.entries.kinds(Tested) for r in e.readings if r.quantity == "nitrite"]
        found += ["nitrite_unseen"] if not nitrite or max(nitrite) < NITRITE_SEEN else []
    if s.tank.planted or s.tank.substrate_cm > DEEP_BED_CM:
        found.append("nitrate_missing")
    if any(e.body.detoxifies for e in s.entries.kinds(Conditioner)):
        found.append("detoxifier")
    if any("milky" in e.body.signs for e in s.entries.kinds(Observation)):
        found.append("milky")
    return tuple(found)


NITRITE_SEEN, DEEP_BED_CM = 0.5, 6.0  # mg N/L that counts as a hump; a bed deep enough to lose nitrate


def _day(d: date | None, s: Situation) -> str:
    return f"after {s.forecast.days[-1]:%-d %b}" if d is None else f"{d:%a %-d %b}"


def _headline(s: Situation) -> tuple[str, str]:
    r, gate = s.forecast.readiness, s.school.gate
    what = "clear the dose" if gate[0].kind == "clears_dose" else "stay clean"
    if s.living and not s.school.fish_in:
        carries = s.forecast.carries
        whose = "the animals here and the next batch" if s.waiting else "the animals here"
        return (
            f"Carried today with {percent(carries.already)} probability:",
            f"{whose}, {load_text(carries.stated_load)} a day when grown up.",
        )
    if not s.tank.filled:
        likely = f"likely {what} by {_day(r.p50, s)}" if r.p50 else f"hardly {what} within {HORIZON_DAYS} days"
        return "Still dry.", f"Filled and begun today it would {likely}; readings will narrow that."
    if r.already >= 0.5:
        return f"Likely ready to {what}:", f"{percent(r.already)} probable today; the school’s own proof decides."
    if r.p50 is None:
        late = percent(1 - r.in_time)
        return f"Not ready within {HORIZON_DAYS} days,", f"with {late} probability, if all goes on as it is."
    if r.p90 is None:
        return (
            f"Likely to {what} by {_day(r.p50, s)}:",
            f"one in ten by {_day(r.p10, s)}, and {percent(1 - r.in_time)} not within {HORIZON_DAYS} days.",
        )
    return (
        f"Likely to {what} by {_day(r.p50, s)}:",
        f"eight times in ten between {_day(r.p10, s)} and {_day(r.p90, s)}.",
    )


def _why(s: Situation) -> list[str]:
    f, found = s.forecast, []
    r = f.readiness
    found.append(
        f"It rests on {f.n_readings} nitrogen reading{'s' if f.n_readings != 1 else ''}, on what was dosed, fed and "
        f"changed, and on what is known of such colonies in general; {f.members} courses that fit all of it."
    )
    if f.unknowns:
        found.append("The range of the date hangs most on " + _and([u.words for u in f.unknowns]) + ".")
    for x in f.surprises:
        last = s.entries.latest(x.quantity)
        again = last is not None and last.entry_id == x.entry_id  # one that was read again since then has been repeated
        found.append(
            f"{x.quantity.capitalize()} {x.typed} of {x.at:%-d %b} does not fit the others: {percent(x.probability)} "
            + ("likely. Repeat it; until then it counts for little." if again else "likely. It counts for little.")
        )
    best = worthwhile(f.next_tests)
    if best is not None:
        found.append(
            f"{best.quantity.capitalize()} tested on {best.day:%A %-d %b} would narrow it most: the range of the date "
            f"from {figure(best.width_now, 2)} to about {figure(best.width_after, 2)}{NBSP}days."
        )
    elif r.already < 0.5:
        found.append("No single test of the next seven days would narrow the date much; keep to the rhythm.")
    found.append(f"It assumes that the school goes on, and {_kh_words(s)}.")
    return found


def _kh_words(s: Situation) -> str:
    """What is assumed of alkalinity: what this keeper has done so far, while the tank cycles."""
    if s.living or s.school.fish_in:
        return "that KH is kept up from half of it on"
    habit = habit_of(s.entries, s.tank, s.now)
    falls = "that until animals come KH falls and, once half of it is gone, is brought up"
    if habit.unknown:
        return f"{falls} within days, as the list asks"
    times = "never yet" if not habit.mended else "once" if habit.mended == 1 else f"{habit.mended} times"
    low = "less than a day" if habit.days_low < 1 else f"{habit.days_low:.0f}{NBSP}day{'s' * (habit.days_low >= 1.5)}"
    return f"{falls} as soon as this log lets expect it: put right {times}, left low for {low} in all"


def _and(words: list[str]) -> str:
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and on " + words[-1]


def _column(s: Situation, q: Quantity, futures: tuple[Future, ...], k: int) -> Column:
    f, base = futures[k], futures[0]
    chart = fan(s, q, 378, 230, bands_by_key=f.bands, other=base.bands[q.key][3] if k else None)
    peaks = (
        f"Un-ionised ammonia peaks at about {mg_text(f.nh3_peak_p50)} (one in ten above {figure(f.nh3_peak_p90, 2)}), "
        f"nitrite at about {mg_text(f.no2_peak_p50)} (above {figure(f.no2_peak_p90, 2)}) in 14 days."
    )
    under = ""
    if f.p_under is not None:
        who = "It stays" if s.living else "Once they are in, it stays"
        under = f"{who} under the animals’ limits with {percent(f.p_under)} probability for 14 days."
    # A stocked tank is past its gate: what matters there are the peaks.
    cycling = not s.living or s.school.fish_in
    ready = ready_words(f.readiness, base.readiness if k else None, s) if cycling else ""
    return Column(f.name, chart, ready, peaks, under)


def ready_words(r: Readiness, before: Readiness | None, s: Situation) -> str:
    if r.already >= 0.5:
        return f"Ready now, {percent(r.already)} probable."
    if r.p50 is None:
        return f"Not ready within {HORIZON_DAYS} days, {percent(1 - r.in_time)} probable."
    until = f"from {_day(r.p10, s)} to {_day(r.p90, s)}" if r.p90 else f"one in ten by {_day(r.p10, s)}"
    text = f"Ready about {_day(r.p50, s)}, {until}."
    if before is not None and before.p50 and r.p50:
        moved = (r.p50 - before.p50).days
        days = f"{abs(moved)} day{'s' if abs(moved) != 1 else ''}"
        text += f" That is {days} {'later' if moved > 0 else 'sooner'}." if moved else " No day is gained or lost."
    return text


def presets(s: Situation) -> list[Preset]:
    """What people ask most, for this tank."""
    tomorrow, today = s.now.date() + timedelta(days=1), s.now.date()
    found = [Preset("change 30 % tomorrow", "wc 30%", tomorrow.isoformat())]
    if s.school.feeds_by == "dose" and not s.living:
        half = figure(s.tank.target_mg_n_l / 2, 2)
        found.append(Preset("dose half", f"dose {half} mg/l", today.isoformat()))
        found.append(Preset("dose twice", f"dose {figure(2 * s.tank.target_mg_n_l, 2)} mg/l", today.isoformat()))
    batch = s.next_batch
    if batch is not None:
        saturday = today + timedelta(days=(5 - today.weekday()) % 7 or 7)
        names = s.reference.species
        known = [(a.count, names[a.species].name) for a in batch.items if a.species in names]
        animals = " ".join(f"in {count} {plural(name, count)}" for count, name in known)
        found.append(Preset(f"{batch.name.lower()} on Saturday", animals, saturday.isoformat()))
    if s.living:
        found.append(Preset("power off for a day", "power 24h", today.isoformat()))
    return found
