"""The upset desk: what is over, the plan of changes, the causes, and what changed before."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.advice.said import Job, Verdict
from jarbloom.core.advice.situation import Situation, TankSeen
from jarbloom.core.advice.verdict import over_words
from jarbloom.core.journal.clean import CLEAN_DAYS
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.model.schools import Corrective
from jarbloom.core.setup.exposure import exposure
from jarbloom.units import figure, load_text
from jarbloom.views.drawn.upset_line import UpsetLine, upset_line
from jarbloom.views.tank.change_plan import ChangeRow, Way, change_rows, promise_words, reached_words, recipe_rows, ways
from jarbloom.views.tank.desk import DeskCauses, desk_causes, inquiry_of
from jarbloom.views.tank.exposure import exposure_rows, exposure_words
from jarbloom.views.tank.upset import UpsetChart, upset_chart


@dataclass(frozen=True)
class UpsetPage:
    verdict: Verdict
    acting: bool
    open: bool
    clean: str
    over: tuple[str, ...]
    jobs: tuple[Job, ...]
    rows: tuple[ChangeRow, ...]
    chart: UpsetChart | None
    small: UpsetChart | None
    recipe: tuple[tuple[str, str], ...]
    reached: str
    school: Corrective | None
    ways: tuple[Way, ...]
    seen: tuple[str, ...]
    changed: tuple[str, ...]
    promise: tuple[str, ...]
    living: str
    rhythm: str
    exposure: tuple[tuple[str, ...], ...]
    exposure_words: str
    desk: DeskCauses
    line: UpsetLine
    small_line: UpsetLine


def upset_page(seen: TankSeen) -> UpsetPage:
    s, response = seen.situation, seen.situation.response
    exposed = exposure(s.tank, s.forecast, s.entries, s.levels.limits, s.now) if s.living and s.school.fish_in else None
    upset, inquiry = s.episode, inquiry_of(seen)
    clean = ""
    if upset is not None:
        clean = f"{upset.clean_days} of {CLEAN_DAYS} clean days since {upset.since:%a %-d %b %H:%M}"
    return UpsetPage(
        seen.verdict, s.acting, bool(upset and upset.open), clean, tuple(over_words(s)) if s.acting else (),
        tuple(j for j in seen.jobs if j.kind not in ("feed",)), change_rows(response, s) if response else (),
        upset_chart(s, seen.courses),
        upset_chart(s, seen.courses, width=358), recipe_rows(response, s) if response else (),
        reached_words(response, s) if response else "", response.school if response else None,
        ways(s), _seen_signs(s), _changed(s), promise_words(s),
        f"{sum(g.count for g in s.living)} animals, putting out {load_text(s.forecast.load_now)} a day",
        "Two hours after each change, then every day, until ammonia and nitrite both read at the kit’s lowest step on "
        f"{CLEAN_DAYS} days running.",
        exposure_rows(s, exposed), exposure_words(exposed), desk_causes(seen, inquiry),
        upset_line(s, inquiry.ranking), upset_line(s, inquiry.ranking, width=358),
    )  # fmt: skip


def _seen_signs(s: Situation) -> tuple[str, ...]:
    since = s.now - timedelta(days=3)
    return tuple(
        f"{e.body.words(s.reference.species, s.units)}, {e.at:%a %H:%M}"
        for e in s.entries.kinds_since(since.date(), Observation, Death)
        if e.at > since
    )


def _changed(s: Situation) -> tuple[str, ...]:
    """What changed in the ten days before: the question that experts ask first."""
    start = (s.episode.since if s.episode else s.now) - timedelta(days=10)
    lately = s.entries.since(start.date())
    found = [
        f"{e.at:%a %-d %b}: {e.body.label.lower()}, {e.body.words(s.reference.species, s.units)}"
        + (f" ({e.note})" if e.note else "")
        for e in lately.kinds(MediaCleaned, Arrival, Bacteria, Conditioner, Change, Note)
        if e.at > start
    ]
    fed = [(e.body.grams, e.at) for e in lately.kinds(Feed) if e.at > start and e.body.grams is not None]
    if fed:
        grams, when = max(fed)
        found.append(f"{when:%a %-d %b}: the largest feeding, {figure(grams)} g")
    return tuple(reversed(found[-7:]))
