"""Page data of the fill run, of cultures and of what is switched off."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from jarbloom.core.journal.switches import SwitchedOff
from jarbloom.core.setup.culture import Preparation, until_for
from jarbloom.core.setup.fill import FillStanding


@dataclass(frozen=True)
class FillRow:
    key: str
    title: str
    words: str
    amount: str
    caution: str
    asks: str
    state: str  # done | now | waiting | later
    when: str
    ends_at: str  # ISO moment until which a timer runs, or empty


def step_rows(steps: Sequence[FillStanding], now: datetime) -> tuple[FillRow, ...]:
    found = []
    for s in steps:
        state, when, ends = "later", "", ""
        if s.done_at is not None:
            state, when = "done", f"{s.done_at:%a %-d %b %H:%M}"
        elif s.waiting(now):
            assert s.open_from is not None
            state, ends = "waiting", s.open_from.isoformat()
            when = f"from {s.open_from:%a %-d %b %H:%M}"
        elif s.open_from is not None:
            state = "now"
        found.append(
            FillRow(
                s.step.key, s.step.title, s.step.words, s.step.amount, s.step.caution, s.step.asks, state, when, ends
            )
        )
    return tuple(found)


def fill_words(rows: Sequence[FillRow]) -> tuple[str, str]:
    done = sum(r.state == "done" for r in rows)
    if done == len(rows):
        return "The water is ready.", "Everything is ticked: cycling can begin."
    step = next(r for r in rows if r.state != "done")
    if step.state == "waiting":
        return "Wait.", f"The next step, {step.title[0].lower() + step.title[1:]}, opens {step.when}."
    call = f"{step.title}." if done else "From the dry tank to water, step by step."
    return call, f"{done} of {len(rows)} steps are done."


@dataclass(frozen=True)
class OffRow:
    device: str
    name: str
    since: str
    until: str
    overdue: bool


def off_rows(off: Sequence[SwitchedOff], today: date) -> tuple[OffRow, ...]:
    return tuple(
        OffRow(
            o.device, o.name, f"{o.since:%-d %b}",
            "no day named" if o.until is None else f"{o.until:%a %-d %b}", o.overdue(today),
        )
        for o in off
    )  # fmt: skip


@dataclass(frozen=True)
class PrepRow:
    key: str
    title: str
    words: str
    device: str
    until: str


def prep_rows(steps: Sequence[Preparation], today: date, typed: Mapping[str, str]) -> tuple[PrepRow, ...]:
    """The day each device goes on again: as typed, else as is usual for it."""
    return tuple(
        PrepRow(p.key, p.title, p.words, p.device, _until(p.device, today, typed) if p.device else "") for p in steps
    )


def _until(device: str, today: date, typed: Mapping[str, str]) -> str:
    return typed.get(f"until-{device}") or until_for(device, today).isoformat()
