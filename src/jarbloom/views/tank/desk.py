"""The upset desk: first aid, what it could be, the next check, and the clock of a binder, as the page shows them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.advice.said import Job
from jarbloom.core.advice.situation import Situation, TankSeen
from jarbloom.core.causes.aftermath import UNKNOWN_DAYS, Recalled, account, lessons, over, recalled
from jarbloom.core.causes.checks import NextCheck
from jarbloom.core.causes.courses import Course
from jarbloom.core.causes.evidence import Evidence
from jarbloom.core.causes.first_aid import USES_WATER, FirstAid
from jarbloom.core.causes.inquiry import Inquiry, inquire
from jarbloom.core.causes.piece import Piece
from jarbloom.core.causes.ranking import Ranked, Ranking
from jarbloom.core.journal.kinds.choices import CHANGED_LATELY, SIGN_GROUPS, SIGNS
from jarbloom.core.journal.kinds.lesson import Lesson
from jarbloom.core.model.findings import Feeding, Severity
from jarbloom.core.model.reference import Reference
from jarbloom.units import NBSP
from jarbloom.views.drawn.axes import r1
from jarbloom.views.drawn.stipple import open_dots
from jarbloom.views.tank.binder import BinderLine, binder_line

BORNE, OPEN_END = 100.0, 50.0  # px: of the best cause, borne out by the log and not ruled out
SHOWN_CAUSES, SHOWN_PIECES = 6, 3
STRIP_MOST = 5
# in this order, whatever else there is
FIRST = ("board_off", "person_first", "unplug", "gas_off", "air", "change", "no_food")
SET_ASIDE = {"medicine": "medicine", "batch": "new animals", "new_thing": "new things", "poison": "spray or paint",
             "media_tap": "filter washed", "media_new": "media replaced", "power_out": "power cuts"}  # fmt: skip
SET_ASIDE_DAYS = 60


@dataclass(frozen=True)
class CauseLine:
    """`whole`: px as far as the log bears it out; `dots`: a path as far as it is not ruled out."""

    key: str
    title: str
    fit: str
    whole: float
    dots: str
    because: tuple[str, ...]
    against: tuple[str, ...]
    says: str
    tell: str
    special: str
    course: str
    help: str
    prevent: str
    danger: bool
    caution: str


@dataclass(frozen=True)
class AidLine:
    title: str
    why: str


@dataclass(frozen=True)
class CourseCard:
    """The next hours and days: when, and what, with this tank's figures."""

    title: str
    clock: str
    steps: tuple[tuple[str, str], ...]
    caution: str


@dataclass(frozen=True)
class AnswerTap:
    label: str
    token: str
    then: str


@dataclass(frozen=True)
class CheckCard:
    key: str
    title: str
    how: str
    effort: str
    answers: tuple[AnswerTap, ...]
    reading: str
    caution: str


@dataclass(frozen=True)
class Closing:
    """The form that writes an upset down: whether it is due, causes to choose from, and what the log tells of it."""

    due: bool
    choices: tuple[tuple[str, str], ...]
    cause: str
    account: str
    prevent: str
    waits: str
    setting: tuple[str, str] | None  # of the tank, that prevents it: words, and the part of its settings


@dataclass(frozen=True)
class DeskCauses:
    """`call`: what is most likely in a sentence; `aid`: the strip; `held`: what is held back, with the reason."""

    call: str
    enough: bool
    causes: tuple[CauseLine, ...]
    more: tuple[CauseLine, ...]
    aid: tuple[AidLine, ...]
    held: tuple[tuple[str, str], ...]
    never: tuple[str, ...]
    checks: tuple[CheckCard, ...]
    courses: tuple[CourseCard, ...]
    aside: str
    again: str
    binder: BinderLine | None
    groups: tuple[tuple[str, tuple[tuple[str, str], ...]], ...]
    changed: tuple[tuple[str, str], ...]
    closing: Closing
    recalled: tuple[str, ...]
    earlier: tuple[str, ...]


def inquiry_of(seen: TankSeen) -> Inquiry:
    """The inquiry of the desk, with the amounts of the assessment."""
    s = seen.situation
    assert s.facts is not None
    return inquire(s.facts, s.findings, any(j.kind == "water_change" for j in seen.jobs))


def desk_causes(seen: TankSeen, inquiry: Inquiry) -> DeskCauses:
    s = seen.situation
    assert s.facts is not None
    ranking, checks, helping, enough = inquiry.ranking, inquiry.checks, inquiry.aid, inquiry.asks_why
    shown = _shown(ranking)
    return DeskCauses(
        _call(ranking, checks, enough), enough, tuple(_line(c, ranking, s) for c in shown),
        tuple(_line(c, ranking, s) for c in ranking.causes[: SHOWN_CAUSES + 6] if c not in shown),
        _strip(seen, helping, enough), _held(helping, seen) if enough else (), helping.never,
        tuple(_card(c, s) for c in checks), tuple(_course(c, s) for c in inquiry.courses), _aside(ranking, s),
        _again(ranking, s) if enough else "",
        binder_line(s), sign_groups(),
        tuple(CHANGED_LATELY.items()), _closing(s, ranking), tuple(_recalled(r) for r in inquiry.recalled),
        tuple(f"{e.at:%-d %b %Y}: {e.body.words(s.reference.species, s.units)}" for e in lessons(s.facts)[:6]),
    )  # fmt: skip


def sign_groups() -> tuple[tuple[str, tuple[tuple[str, str], ...]], ...]:
    """The boxes of signs by where one looks."""
    return tuple((title, tuple((k, SIGNS[k]) for k in keys)) for title, keys in SIGN_GROUPS)


def _closing(s: Situation, ranking: Ranking) -> Closing:
    assert s.facts is not None
    causes = s.reference.causes
    first = ranking.causes[0].row if ranking.causes and ranking.enough else None
    choices = [(c.key, c.row.title) for c in ranking.causes]
    days = causes.resume_days(first) if first else UNKNOWN_DAYS
    return Closing(
        over(s.facts), (*choices, ("unknown", "not known")), first.key if first else "unknown",
        account(s.facts, ranking), first.prevent if first else "",
        f"New animals wait {days} clean days after it, and for what the gate asks." if days else
        "Nothing has to be waited for, beyond what the gate asks.",
        SETTINGS.get(causes.setting(first)) if first else None,
    )  # fmt: skip


SETTINGS = {
    "quarantine": ("quarantine of newcomers", "settings"),
    "acclimatising": ("how newcomers are acclimatised", "settings"),
    "pace": ("the pace between batches", "settings"),
    "kit": ("the kit, its steps and units", "settings"),
    "source": ("the new water: chlorine, ammonia, conditioner", "setup/water"),
    "heaters": ("a second heater of half the power", "setup/equipment"),
    "lid": ("a lid", "setup/equipment"),
    "surface": ("how the surface is moved", "setup/equipment"),
}


def here_before(s: Situation) -> tuple[str, ...]:
    """Earlier upsets whose ground is trodden again, in words."""
    assert s.facts is not None
    if not s.facts.log.kinds(Lesson):
        return ()
    return tuple(_recalled(r) for r in recalled(s.facts, Evidence(s.facts)))


def _recalled(r: Recalled) -> str:
    body = r.lesson.body
    return f"{r.again} ({r.at:%-d %b}): the last time was the upset of {r.lesson.at:%-d %b %Y}. {body.text}"


def at_first(reference: Reference) -> tuple[tuple[str, str], ...]:
    """What is right before anything is known: offered at once, on the way in."""
    acts = reference.acts
    return (
        (acts["air"].title, _short(acts["air"].why)),
        (acts["no_food"].title, "young, small and thin ones get a pinch"),
        ("No medicine, no filter cleaning, no chasing", "until the cause is known"),
        ("Look at the heater and the flow", "a tingle or a trip: off at the board, hands dry"),
    )


def _shown(ranking: Ranking) -> list[Ranked]:
    """The likely ones, and what endangers most though it is less likely."""
    fitting = [c for c in ranking.causes[:SHOWN_CAUSES] if c.fit != "fits poorly"] or list(ranking.causes[:3])
    return [*fitting, *(c for c in ranking.dangerous if c not in fitting)]


def _call(ranking: Ranking, checks: Sequence[NextCheck], enough: bool) -> str:
    if not enough:
        return "Not enough to say: tick what is seen, or what changed lately."
    first = ranking.causes[0]
    settle = f" {checks[0].check.title}: that would tell." if checks else ""
    if ranking.poor:
        return "None of the causes here fits well: a vet or fish-health professional sees more." + settle
    if ranking.close:
        return f"It cannot be told yet: {first.row.title.lower()}, or {ranking.causes[1].row.title.lower()}.{settle}"
    return f"Most likely: {first.row.title.lower()}."


def _line(c: Ranked, ranking: Ranking, s: Situation) -> CauseLine:
    best = ranking.causes[0].share
    size = math.sqrt(c.share / best) if best else 0.0
    whole = BORNE * size if ranking.enough and not ranking.poor else 0.35 * BORNE * size
    group = s.reference.causes.group_of(c.row)
    return CauseLine(
        c.key, c.row.title, c.fit, r1(whole), open_dots(whole, whole + OPEN_END * (0.4 + 0.6 * size), c.key),
        _pieces(c.because), _pieces(c.against) or _missing(c, ranking), c.row.says, c.row.tell, c.row.special,
        group.course, "A vet the same day." if c.row.urgent_vet else group.help, c.row.prevent, c.row.danger >= 3,
        c.row.caution,
    )  # fmt: skip


def _pieces(pieces: Sequence[Piece]) -> tuple[str, ...]:
    return tuple(p.words for p in pieces[:SHOWN_PIECES])


def _missing(c: Ranked, ranking: Ranking) -> tuple[str, ...]:
    """Where nothing speaks against it: what it would need and nobody has told."""
    if c.row.needs_trigger and not ranking.evidence.before(c.row.after):
        return ("nothing in the log that would set it off",)
    return ()


def _strip(seen: TankSeen, helping: FirstAid, enough: bool) -> tuple[AidLine, ...]:
    """What the assessment asks for today, then what else helps under the leading causes; what works fastest first."""
    s, acts = seen.situation, seen.situation.reference.acts
    if not enough and not s.acting:
        return ()
    lines: dict[str, AidLine] = {}
    for job in seen.jobs:
        if job.kind in acts and job.urgent:
            lines[job.kind] = AidLine(job.title, _short(acts[job.kind].why))
        elif job.kind == "water_change" and job.urgent and "change" not in lines:
            lines |= {"change": AidLine(job.title, _change_words(job, helping, s))}
    if s.living and (s.findings.feeding == Feeding.NONE or any(h.act.key == "no_food" for h in helping.do)):
        lines["no_food"] = AidLine("Do not feed today", "young, small and thin ones get a pinch")
    changing = USES_WATER if "change" in lines else frozenset()
    for h in helping.do if enough else ():
        if h.act.key not in lines and h.act.key not in changing:
            lines[h.act.key] = AidLine(h.act.title, _short(h.act.why))
    first = [lines.pop(k) for k in FIRST if k in lines]
    found = [*first, *lines.values()][:STRIP_MOST]
    if found and enough:
        found.append(AidLine("No medicine, and leave the filter alone", "until the cause is known"))
    return tuple(found)


def _short(text: str) -> str:
    return text.split(".")[0].split(";")[0]


def _change_words(job: Job, helping: FirstAid, s: Situation) -> str:
    first = next((h.because for h in helping.held if h.act.key in USES_WATER), "")
    return f"first: {first}" if first else f"{s.units.temp(s.levels.temp_c)}, conditioned, matched"


def _held(helping: FirstAid, seen: TankSeen) -> tuple[tuple[str, str], ...]:
    """A change that the assessment asks for is not held back: its condition stands beside it on the strip."""
    asked = any(j.kind == "water_change" for j in seen.jobs)
    return tuple(
        (h.act.title, f"{h.because} (it would help with: {h.helps.lower()})")
        for h in helping.held
        if not (asked and h.act.key in USES_WATER)
    )


def _card(found: NextCheck, s: Situation) -> CheckCard:
    check, rows = found.check, s.reference.causes.rows
    effort = f"{check.minutes:g}{NBSP}minute{'s' if check.minutes != 1 else ''}"
    if check.stress:
        effort += ", disturbs them a little" if check.stress == 1 else ", by a professional"
    then = {token: rows[key].title.lower() for _, token, key in found.settles}
    return CheckCard(
        check.key, check.title, check.how, effort,
        tuple(AnswerTap(a.label, a.token, then.get(a.token, "")) for a in check.answers),
        check.reading, check.caution,
    )  # fmt: skip


def _course(c: Course, s: Situation) -> CourseCard:
    steps = tuple((_by_then(step.at, s.now), step.text) for step in c.steps)
    return CourseCard(c.row.title, c.clock, steps, c.row.caution)


def _by_then(at: datetime, now: datetime) -> str:
    """'now', a time of today or tomorrow, later a day: the first hours are counted, the rest are slept over."""
    if at <= now:
        return "now"
    if at - now <= timedelta(hours=14):
        return f"{at:%H:%M}" if at.date() == now.date() else f"{at:%a %H:%M}"
    days = (at.date() - now.date()).days
    return "tomorrow" if days == 1 else f"{at:%a %-d %b}"


def _aside(ranking: Ranking, s: Situation) -> str:
    """What nothing in the log speaks for, where the log is long enough to say so."""
    start = s.now - timedelta(days=SET_ASIDE_DAYS)
    if not s.entries or s.entries[0].at > start:
        return ""
    lately = {p.token for p in ranking.evidence.events if p.at >= start}
    gone = [words for token, words in SET_ASIDE.items() if token not in lately]
    return f"Set aside, nothing in the log for {SET_ASIDE_DAYS} days: {', '.join(gone)}." if gone else ""


def _again(ranking: Ranking, s: Situation) -> str:
    if s.findings.worst < Severity.WATCH:
        return ""
    hours = min(s.reference.causes.group_of(c.row).again_h for c in ranking.leading)
    at = s.now + timedelta(hours=hours)
    return f"Look again at {at:%H:%M}" + (f" on {at:%A}" if at.date() != s.now.date() else "") + "."
