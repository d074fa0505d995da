"""Today's jobs, each with its amount and why.

They follow from the findings: one job for food, one for tests, one for the next batch, one for each act; so two that
contradict each other cannot stand beside each other.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from jarbloom.core.advice.animal_jobs import (
    animal_jobs,
    count_jobs,
    eating_jobs,
    keeping_jobs,
    plan_jobs,
    prevent_jobs,
    quarantine_jobs,
    uninvited_jobs,
)
from jarbloom.core.advice.food import fed_today, ration
from jarbloom.core.advice.looking_ahead import ammonia_stands, dose_is_gone, opens_on
from jarbloom.core.advice.said import Job, clock_words
from jarbloom.core.advice.setup_jobs import chore_jobs, setup_jobs
from jarbloom.core.advice.situation import OVER, Situation
from jarbloom.core.advice.standing import still_open
from jarbloom.core.advice.testing import day_words, next_test
from jarbloom.core.advice.water_jobs import change_jobs, changed_since, usual_change
from jarbloom.core.bloom.outlook import CERTAIN
from jarbloom.core.bloom.parameters import NITRITE_WAIT_MG_N_L, PH_BLOOM_STOPS
from jarbloom.core.bloom.plans import pinch_g_day
from jarbloom.core.findings.finding import Finding
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.log import latest
from jarbloom.core.journal.proof import prove
from jarbloom.core.model.findings import Feeding, Severity
from jarbloom.core.model.plan import Batch
from jarbloom.core.stocking.by_course import may_come_along
from jarbloom.core.water.recipes import dose_for
from jarbloom.units import NBSP, figure, food_text, load_text, mg_text, percent


def jobs(s: Situation) -> tuple[Job, ...]:
    """What is to be done, in the order in which it is done; what was put off or skipped is left out."""
    return still_open(all_jobs(s), s.entries, s.now)


def all_jobs(s: Situation) -> tuple[Job, ...]:
    if not s.tank.filled:
        return tuple(setup_jobs(s))
    acts = _acts(s)
    first = s.response is not None and s.findings.all[0].key in OVER  # the change leads, as in the verdict
    found = [*change_jobs(s), *acts] if first else [*acts, *change_jobs(s)]
    found += [*_test(s), *_food(s)]
    if not s.acting:
        found += _doses(s) + _batch(s) + animal_jobs(s)
    found += [j for j in count_jobs(s) if not {"count", "find_body"} & {a.kind for a in acts}]
    found += keeping_jobs(s) + eating_jobs(s) + uninvited_jobs(s) + quarantine_jobs(s)
    found += prevent_jobs(s) + setup_jobs(s) + chore_jobs(s)
    return tuple(sorted(found, key=lambda j: max(j.due, s.now))) if s.acting else tuple(found)


def _acts(s: Situation) -> list[Job]:
    """What the findings ask to be done now, each act once, with the finding that asks first; nothing forbidden."""
    asked: dict[str, Finding] = {}
    for f in s.findings:
        for key in f.acts:
            if key not in s.findings.forbidden:
                asked.setdefault(key, f)
    if s.response is not None and s.response.no_better:
        over = s.findings.all[0]
        asked.setdefault("softer_water", over)
        asked.setdefault("bind", over)
    found = []
    for key, finding in sorted(asked.items(), key=lambda a: s.reference.acts[a[0]].place):
        act, urgent = s.reference.acts[key], finding.severity == Severity.ACT
        found.append(
            Job(
                key, act.title, f"{finding.row.title}. {act.why}", s.now, "now" if urgent else "today", urgent,
                shorthand=act.shorthand, hardness="safety" if finding.severity >= Severity.TEST else "practice",
                caution=finding.row.caution or act.caution,
            )
        )  # fmt: skip
    return found


def _test(s: Situation) -> list[Job]:
    """The one job of testing: what, when and why (core/advice/testing.py)."""
    found = next_test(s)
    today = found.due.date() <= s.now.date()
    urgent = s.acting and today
    text = clock_words(found.due, s.now) if urgent and found.due > s.now else found.day_words(s.now).removeprefix("on ")
    text = "now" if s.forecast.last_reading is None else text
    return [Job("test", found.title, found.why, found.due, text, urgent, hardness="safety" if urgent else "practice")]


def _food(s: Situation) -> list[Job]:
    """The one job of feeding: not at all, a pinch, half, or a usual ration."""
    if s.living:
        found = ration(s)
        if found.level == Feeding.NONE:
            urgent = s.acting
            return [Job("stop_feeding", "Do not feed", f"{found.why} Every pinch is ammonia the bloom cannot "
                                                       "take.", s.now,
                        "today", urgent, hardness="safety")]  # fmt: skip
        if fed_today(s):
            return []
        grams = food_text(found.grams)
        title = {
            Feeding.PINCH: f"Feed a pinch, {grams} at most",
            Feeding.HALF: f"Feed half, {grams} at most",
            Feeding.MOST: f"Feed three quarters, {grams} at most",
            Feeding.USUAL: f"Feed {grams} at most",
        }[found.level]
        fed = f"fed {figure(found.grams, 2)} g"
        return [Job("feed", title, found.why, s.now, "today", amount=found.grams, unit="g", shorthand=fed,
                    hardness="taste")]  # fmt: skip
    if s.school.feeds_by == "food" and not fed_today(s):
        grams_of_school = pinch_g_day(s.tank)
        return [
            Job(
                "feed",
                f"Add a pinch of food, {food_text(grams_of_school)}",
                "It rots to the ammonia that feeds the bloom.",
                s.now,
                "every day or two",
                amount=grams_of_school,
                unit="g",
                shorthand=f"fed {figure(grams_of_school, 2)} g",
            )
        ]
    return []


def _doses(s: Situation) -> list[Job]:
    if s.living or not proves_by_dose(s):
        return []
    now, ph, doses = s.now, latest(s.entries, "ph"), s.entries.kinds(Dose)
    stands = bool(doses) and ammonia_stands(s)
    if stands and not dose_is_gone(s):
        return []
    gate = s.next_gate
    if (gate is not None and gate.passed) or not _rock_is_quiet(s):
        return []
    if ph is not None and ph.value < PH_BLOOM_STOPS:
        why = f"pH reads {ph.reading.typed}: below {figure(PH_BLOOM_STOPS)} the bloom hardly works. KH first."
        return [Job("wait", "Wait with the next dose", why, now, "until the pH is back")]
    opens = opens_on(s) if doses else None
    if opens is not None:
        assert s.next_batch is not None
        day = day_words(now + timedelta(days=opens), now)
        why = (
            f"A test {day} has a good chance to open the gate for {s.next_batch.name.lower()}; a dose now would only "
            "put it off. If it reads above zero, dose again then."
        )
        return [Job("wait", "Let it clear: no dose now", why, now, f"until {day.removeprefix('on ')}")]
    mg_n = s.tank.target_mg_n_l * s.volume_l
    dose = dose_for(mg_n, s.tank.dose_from, s.tank.solution_percent)
    nitrite = latest(s.entries, "nitrite")
    top = nitrite is not None and nitrite.reading.high is None  # the card's last step means this or more
    if nitrite is not None and (top or nitrite.value >= NITRITE_WAIT_MG_N_L):
        return [
            Job(
                "wait",
                "Wait with the next dose",
                "Nitrite is very high; more ammonia now would only slow its bloom.",
                now,
                "until it falls",
            )
        ]
    said = "Ammonia is cleared; this keeps the bloom fed: " if doses else "The first dose, for the bloom to grow on: "
    if stands:
        said = "By the forecast the last dose is gone, with more than 90 % of its members; no test is needed for this: "
    if s.school.feeds_by != "dose":
        said = "The proof: the tank clears this within 24 hours. Test then. "
    return [
        Job(
            "dose",
            f"Dose {figure(dose.amount, 2)}{NBSP}{dose.unit} {dose.of}",
            f"{said}{mg_text(s.tank.target_mg_n_l)} ({load_text(mg_n)}).",
            now,
            "after the test",
            amount=dose.amount,
            unit=dose.unit,
            shorthand=f"dose {figure(s.tank.target_mg_n_l)} mg/l",
            caution="ammonia",
        )
    ]


def proves_by_dose(s: Situation) -> bool:
    """The school doses, or its proof asks for a dose that is cleared."""
    return s.school.feeds_by == "dose" or any(r.kind == "clears_dose" for r in s.school.gate)


def _rock_is_quiet(s: Situation) -> bool:
    """Where die-off or food feeds the bloom, the test dose comes after the clean days that the school asks first."""
    if s.school.feeds_by == "dose":
        return True
    runs = [prove(s.tank, s.entries, r, s.now) for r in s.school.gate if r.kind == "clean_run"]
    return all(r.met for r in runs)


def _batch(s: Situation) -> list[Job]:
    """Bring it home, or find another day: never both, and neither while something is found that keeps the gate shut."""
    batch, gate = s.next_batch, s.next_gate
    if batch is None or gate is None:
        return []
    if not gate.passed:
        return [] if s.findings.holding else plan_jobs(s)
    found = []
    school = s.reference.schools.corrective[s.tank.corrective]
    if not s.living and not changed_since(s, s.now - timedelta(days=1)):
        found.append(
            usual_change(
                s,
                school.max_fraction,
                "Before the first animals: takes out nitrate and what is left of the doses.",
                "before they go in",
            )
        )
    found.append(
        Job(
            "add_batch",
            f"Bring {batch.name.lower()} home",
            "The gate is passed today.",
            s.now,
            f"planned {batch.planned:%a %-d %b}",
        )
    )
    return found + [_along(b, s.now) for b in coming_along(s)]


def coming_along(s: Situation) -> list[Batch]:
    """Batches that may go in on the same day as the first: few animals alone would starve a bloom that bears more."""
    found: list[Batch] = []
    if s.living or not s.by_course:
        return found
    gates = {g.batch_id: g for g in s.gates}
    for batch in s.waiting[1:]:
        outlook, gate = s.outlook(batch), gates.get(batch.id)
        if outlook is None or gate is None or not may_come_along(gate, outlook):
            break
        found.append(batch)
    return found


def _along(batch: Batch, now: datetime) -> Job:
    return Job(
        "add_batch",
        f"Bring {batch.name.lower()} home with it",
        f"The water bears all of them together with {percent(CERTAIN)} certainty, and fed by few the bloom would "
        "shrink.",
        now,
        f"planned {batch.planned:%a %-d %b}",
        subject=f"batch-{batch.id}",
    )
