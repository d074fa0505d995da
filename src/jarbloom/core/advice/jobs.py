"""Today's jobs, each with its amount and why."""

from __future__ import annotations

from datetime import datetime, timedelta

from jarbloom.core.advice.animal_jobs import animal_jobs, count_jobs, keeping_jobs, plan_jobs, quarantine_jobs
from jarbloom.core.advice.said import Job
from jarbloom.core.advice.setup_jobs import setup_jobs
from jarbloom.core.advice.situation import Situation
from jarbloom.core.advice.standing import still_open
from jarbloom.core.advice.verdict import day_words, next_test, telling_test
from jarbloom.core.animals.bioload import usual_feed_g_day
from jarbloom.core.bloom.parameters import NITRITE_WAIT_MG_N_L
from jarbloom.core.bloom.plans import pinch_g_day
from jarbloom.core.journal.clean import reading_is_clean
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.log import latest
from jarbloom.core.model.kit import MG_PER_MG_N
from jarbloom.core.stocking.budget import NITRATE_LIMIT_ION
from jarbloom.core.upset.response import RETEST
from jarbloom.core.water.carbonate import CACO3_PER_MEQ
from jarbloom.core.water.dilution import USUAL_CHANGE
from jarbloom.core.water.recipes import alkalinity_meq, dose_for
from jarbloom.units import CACO3_PER_DKH, NBSP, figure, load_text, mg_text

MOST_FEEDINGS = 40  # so far back it is looked for today's
FISHLESS_NITRATE_ION = 100.0  # a fishless cycle stores it up; judgement
CACO3_PER_MG_N = 7.14
KH_WARN_SHARE = 0.5


def jobs(s: Situation) -> tuple[Job, ...]:
    """What is to be done, in the order in which it is done; what was put off or skipped is left out."""
    return still_open(all_jobs(s), s.entries, s.now)


def all_jobs(s: Situation) -> tuple[Job, ...]:
    if not s.tank.filled:
        return tuple(setup_jobs(s))
    found = _upset(s) if s.acting else []
    found += _tests(s)
    if not s.acting:
        found += _doses(s) + _feeding(s) + _water(s) + _batch(s) + animal_jobs(s) + plan_jobs(s)
    found += count_jobs(s) + keeping_jobs(s) + quarantine_jobs(s) + setup_jobs(s)
    return tuple(sorted(found, key=lambda j: max(j.due, s.now))) if s.acting else tuple(found)


def _clock(at: datetime, now: datetime) -> str:
    return f"{at:%H:%M}" if at.date() == now.date() else f"{at:%a %H:%M}"


def _upset(s: Situation) -> list[Job]:
    response, found = s.response, []
    assert response is not None
    if response.changes:
        first = response.changes[0]
        found.append(
            Job(
                "water_change",
                f"Change {s.units.volume(first.litres)}",
                f"Brings free ammonia from {figure(first.nh3_before, 2)} to about "
                f"{figure(first.nh3_after.seen, 2)}, nitrite from {figure(first.no2_before, 2)} to "
                f"{figure(first.no2_after, 2)}{NBSP}mg/L.",
                first.at,
                "now" if first.at <= s.now else _clock(first.at, s.now),
                first.at <= s.now,
                first.litres,
                "L",
                f"wc {first.litres:.1f} l",
                "safety",
                "siphon",
            )
        )
        for k, later in enumerate(response.changes[1:3], 2):
            found.append(
                Job(
                    "water_change",
                    f"Change {s.units.volume(later.litres)}",
                    "The next step, worked out afresh after every reading.",
                    later.at,
                    _clock(later.at, s.now),
                    False,
                    later.litres,
                    "L",
                    "",
                    "safety",
                    subject=str(k),
                )
            )
    found.append(
        Job(
            "stop_feeding",
            "Do not feed",
            "Every pinch is ammonia the bloom cannot take.",
            s.now,
            "until two clean days",
            True,
            hardness="safety",
        )
    )
    return found


def _tests(s: Situation) -> list[Job]:
    if s.acting:
        assert s.response is not None
        due = s.response.retest_at if s.levels.changed_at else s.now + RETEST
        return [
            Job(
                "test",
                "Test ammonia, nitrite and pH",
                "Two hours after the change; it decides the next one.",
                due,
                _clock(due, s.now),
                True,
                shorthand="",
                hardness="safety",
            )
        ]
    last = s.forecast.last_reading
    if last is None:
        return [Job("test", "Test ammonia, nitrite and pH", "Nothing can be forecast without a reading.", s.now, "now")]
    due = next_test(s)
    why = {True: "Two clean days in a row end the upset.", False: "The school’s rhythm"}[
        bool(s.episode and s.episode.open)
    ]
    if why == "The school’s rhythm":
        why = "It sets the date of the next batch." if s.next_batch else f"The rhythm of {s.school.name}."
    title = "Test ammonia and nitrite"
    best = telling_test(s)
    if best is not None:
        title = "Test nitrite, then ammonia" if best.quantity == "nitrite" else title
        why += (
            f" {best.quantity.capitalize()} on {best.day:%A} would narrow it most: from {figure(best.width_now, 2)} "
            f"to about {figure(best.width_after, 2)}{NBSP}days."
        )
    return [Job("test", title, why, due, day_words(due, s.now).removeprefix("on "))]


def _doses(s: Situation) -> list[Job]:
    if s.living or s.school.feeds_by != "dose":
        return []
    am, now = latest(s.entries, "ammonia"), s.now
    doses = s.entries.kinds(Dose)
    if am is not None and not reading_is_clean(am.reading, s.tank.kit) and doses:
        return []
    if doses and (am is None or doses[-1].order > am.order):
        return []
    gate = s.next_gate
    if gate is not None and gate.passed:
        return []
    mg_n = s.tank.target_mg_n_l * s.volume_l
    dose = dose_for(mg_n, s.tank.dose_from, s.tank.solution_percent)
    nitrite = latest(s.entries, "nitrite")
    if nitrite is not None and nitrite.value >= NITRITE_WAIT_MG_N_L:
        return [
            Job(
                "wait",
                "Wait with the next dose",
                "Nitrite is very high; more ammonia now would only slow its bloom.",
                now,
                "until it falls",
            )
        ]
    return [
        Job(
            "dose",
            f"Dose {figure(dose.amount, 2)}{NBSP}{dose.unit} {dose.of}",
            f"Ammonia is cleared; {mg_text(s.tank.target_mg_n_l)} ({load_text(mg_n)}) keeps the bloom fed.",
            now,
            "after the test",
            amount=dose.amount,
            unit=dose.unit,
            shorthand=f"dose {figure(s.tank.target_mg_n_l)} mg/l",
            caution="ammonia",
        )
    ]


def _feeding(s: Situation) -> list[Job]:
    today = s.now.date()
    if any(e.day == today for e in s.entries.kinds(Feed)[-MOST_FEEDINGS:]):
        return []
    if s.living:
        grams = usual_feed_g_day(s.living, s.reference.species, s.tank.temp_c, today)
        if s.episode and s.episode.open:
            grams *= 0.5
        return [
            Job(
                "feed",
                f"Feed {figure(grams, 2)}{NBSP}g at most",
                "A usual ration for what lives here; less is fine.",
                s.now,
                "today",
                amount=grams,
                unit="g",
                shorthand=f"fed {figure(grams, 2)} g",
                hardness="taste",
            )
        ]
    if s.school.feeds_by == "food":
        grams = pinch_g_day(s.tank)
        return [
            Job(
                "feed",
                f"Add a pinch of food, {figure(grams, 2)}{NBSP}g",
                "It rots to the ammonia that feeds the bloom.",
                s.now,
                "every day or two",
                amount=grams,
                unit="g",
                shorthand=f"fed {figure(grams, 2)} g",
            )
        ]
    return []


def _water(s: Situation) -> list[Job]:
    found = []
    na = latest(s.entries, "nitrate")
    limit = NITRATE_LIMIT_ION[s.tank.planted] if s.living else FISHLESS_NITRATE_ION
    if na is not None and na.value * MG_PER_MG_N["NO3"] > limit and not _changed_since(s, na.at):
        found.append(
            _change(s, USUAL_CHANGE, f"Nitrate reads {na.reading.typed}; {figure(limit)} as ion is the aim.", "")
        )
    extreme, am = s.school.change_over_mg_n_l, latest(s.entries, "ammonia")
    if extreme and not s.living and am is not None and am.value >= extreme and not _changed_since(s, am.at):
        share = s.reference.schools.corrective[s.tank.corrective].max_fraction
        words = f"Ammonia reads {am.reading.typed}: above {figure(extreme)} the life on the rock suffers too."
        found.append(_change(s, share, words, "today"))
    routine = s.school.change_every_days
    if s.living and routine:
        last = max((e.at for e in s.entries.kinds(Change)[-1:]), default=None)
        if last is None or s.now - last >= timedelta(days=routine):
            found.append(_change(s, s.school.change_share, f"The rhythm of {s.school.name}.", "today"))
    kh = latest(s.entries, "kh")
    if s.school.feeds_by == "dose" and not s.living:
        since = kh.at if kh else None
        doses = [e.body for e in s.entries.kinds(Dose) if since is None or e.at > since]
        spent = sum(d.mg_n * CACO3_PER_MG_N - _brought(d, s) for d in doses) / s.volume_l
        changed = _changed_since(s, since)
        base = kh.value if kh else s.tank.kh_dkh
        used = spent / CACO3_PER_DKH
        if used > KH_WARN_SHARE * base and not changed:
            found.append(
                Job(
                    "test_kh",
                    "Test KH",
                    f"The doses since may have used {figure(used, 2)} of {figure(base, 2)}"
                    f"{NBSP}dKH; without it the bloom stops.",
                    s.now,
                    "with the next test",
                )
            )
    return found


def _changed_since(s: Situation, since: datetime | None) -> bool:
    return any(since is None or e.at > since for e in s.entries.kinds(Change)[-1:])


def _brought(dose: Dose, s: Situation) -> float:
    """Alkalinity that came with a dose, mg CaCO3."""
    return CACO3_PER_MEQ * alkalinity_meq(dose.mg_n, dose.unit, s.tank.dose_from)


def _change(s: Situation, share: float, why: str, due: str) -> Job:
    litres = share * s.volume_l
    return Job(
        "water_change",
        f"Change {s.units.volume(litres)}",
        why,
        s.now,
        due or "this week",
        amount=litres,
        unit="L",
        shorthand=f"wc {litres:.1f} l",
        caution="siphon",
    )


def _batch(s: Situation) -> list[Job]:
    batch, gate = s.next_batch, s.next_gate
    if batch is None or gate is None or not gate.passed:
        return []
    found = []
    school = s.reference.schools.corrective[s.tank.corrective]
    if not s.living and not _changed_since(s, s.now - timedelta(days=1)):
        found.append(
            _change(
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
    return found
