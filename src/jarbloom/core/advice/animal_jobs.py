"""Jobs that those who live in a tank give by growing up together: who is to be parted, and until when."""

from __future__ import annotations

from datetime import datetime, time, timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.compatibility import Case, Finding, case_of, findings
from jarbloom.core.animals.home import home_of
from jarbloom.core.log.kinds import plural
from jarbloom.core.model import Job

AHEAD = timedelta(days=60)  # time to find another tank before a pair turns dangerous (judgement)
MOST = 3  # the rest stand on the page about who goes with whom
LIVED_THROUGH = frozenset({"maturity"})  # those who are in have outlived the question


def animal_jobs(s: Situation) -> list[Job]:
    """What keeps apart those who live here, today or within two months; the worst three."""
    if not s.living:
        return []
    case = case_of(home_of(s.tank), s.living, s.reference.species, s.now.date(), s.units)
    pressing = [f for f in findings(case) if f.severity == "apart" and f.key not in LIVED_THROUGH]
    soon = [f for f in pressing if f.on is None or f.on <= s.now.date() + AHEAD]
    return [_job(f, case, s) for f in soon[:MOST]]


def _job(f: Finding, case: Case, s: Situation) -> Job:
    names = [plural(m.kind.name, m.animals.count) for key in f.species for m in case.members if m.kind.key == key]
    due = datetime.combine(f.on, time(12), s.now.tzinfo) if f.on else s.now
    title = f"Part the {names[0]} from the {names[1]}" if len(names) > 1 else f"{_help(f)} for the {names[0]}"
    return Job(
        "animals", title, f.sentence, due, f"by {f.on:%-d %b %Y}" if f.on else "soon", hardness="practice",
        subject=f"{f.key}.{'.'.join(f.species)}",
    )  # fmt: skip


def _help(f: Finding) -> str:
    return (
        f.resolve[:1].upper() + f.resolve[1:] if f.key in ("litres", "turning", "lid", "salinity") else "Another tank"
    )
