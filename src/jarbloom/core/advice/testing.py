"""Which test is due, and when: one answer for verdict, job, calendar and mail."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, time, timedelta

from jarbloom.core.advice.alkalinity import kh_is_due
from jarbloom.core.advice.looking_ahead import LONGEST_DAYS, pays_early, test_pays_on
from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.parameters import PH_BLOOM_STOPS
from jarbloom.core.bloom.value import TestValue, worthwhile
from jarbloom.core.findings.waste import MUCH_MG_N_L
from jarbloom.core.journal.book import newcomers
from jarbloom.core.journal.clean import CLEAN_DAYS, WASTE
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.model.findings import Severity
from jarbloom.core.model.hours import hours_from
from jarbloom.core.stocking.check import Gate
from jarbloom.core.upset.credible import readings_of
from jarbloom.core.upset.levels import refuted
from jarbloom.core.upset.response import RETEST
from jarbloom.units import NBSP, figure

PUT_OFF = timedelta(days=2)  # the most that a test waits beyond the school's rhythm because it could tell nothing yet
HALF_A_DAY = timedelta(hours=12)  # to the next look at water that may be over its limit: the morning after an evening
EARLIER = timedelta(hours=4)  # a test at about the same hour of the next day
READ_LATELY = timedelta(hours=12)  # a reading this young need not be taken again today
REPEATS = frozenset({"masked", "doubtful_low", "contradiction", "repeat_high", "surprise", "over_range", "fine_words",
                     "thermometers", "kh_step"})  # fmt: skip  # a repeat is asked for, however young the reading
AT_LENGTH = {"temp": "temperature", "ph": "pH", "kh": "KH", "salinity": "salinity"}
EARLY = (
    "At this hour: a day after the dose it would likely be clean either way. How fast the dose goes tells whether the "
    "bloom carries all who are to come."
)
ORDER = ("ammonia", "nitrite", "nitrate", "ph", "kh", "temp", "salinity", "oxygen")


@dataclass(frozen=True)
class NextTest:
    """What is to be tested next, and from when on it is due. `repeat`: a reading is to be taken once more; `at_hour`:
    the hour matters, not only the day."""

    quantities: tuple[str, ...]
    due: datetime
    repeat: bool = False
    why: str = ""
    at_hour: bool = False

    def day_words(self, now: datetime) -> str:
        """'today', 'tomorrow at 09:00', 'on Friday'."""
        return day_words(self.due, now) + (f" at {self.due:%H:%M}" if self.at_hour else "")

    @property
    def title(self) -> str:
        names = [AT_LENGTH.get(q, q) for q in self.quantities]
        listed = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
        return f"{'Repeat the test of' if self.repeat else 'Test'} {listed}"


def telling_test(s: Situation) -> TestValue | None:
    """The ammonia or nitrite test that would narrow the date most, while the tank cycles without animals."""
    return None if s.living else worthwhile([t for t in s.forecast.next_tests if t.quantity != "nitrate"])


def day_words(at: datetime, now: datetime) -> str:
    """'today', 'tomorrow', a weekday within the week, else a date."""
    days = (at.date() - now.date()).days
    if days <= 0:
        return "today"
    if days == 1:
        return "tomorrow"
    return f"on {at:%A}" if days < 7 else f"on {at:%-d %b}"


def test_advice(s: Situation) -> str:
    found = next_test(s)
    if found.repeat and found.due <= s.now:
        return f"{found.title} today."
    return f"Test again {found.day_words(s.now)}."


def next_test(s: Situation) -> NextTest:
    """What the findings want today comes first; else the school's rhythm, daily in an upset and after arrivals."""
    return s.once("next_test", lambda: _next_test(s))


def _next_test(s: Situation) -> NextTest:
    if s.levels.changed_at is not None and s.over:
        due = max(s.levels.changed_at + RETEST, s.now)
        return NextTest((*WASTE, "ph"), due, why="Two hours after the change; it decides the next one.")
    wanted = _wanted(s)
    if wanted:
        return wanted
    if s.response is not None and s.response.changes and s.response.changes[0].at <= s.now:
        return NextTest((*WASTE, "ph"), s.now + RETEST, why="Two hours after the change; it decides the next one.")
    if (why := _soon_again(s)) and (last := s.forecast.last_reading) is not None:
        due = max(s.now, hours_from(s.tank.home_hours).next(last + HALF_A_DAY))
        return NextTest((*WASTE, "ph"), due, why=why)
    ph = s.entries.latest("ph")
    acid = not s.living and ph is not None and ph.value < PH_BLOOM_STOPS and s.now - ph.at > READ_LATELY
    extra = (*(("kh",) if kh_is_due(s) else ()), *(("ph",) if acid else ()))
    last = s.forecast.last_reading
    if last is None:
        return NextTest((*WASTE, "ph"), s.now, why="Nothing can be forecast without a reading.")
    due = _rhythm(s, last)
    best, quantities, why = telling_test(s), (*WASTE, *extra), _why(s)
    early = pays_early(s)
    if early is not None and early < due:
        due, why = early, EARLY
    elif best is not None:
        quantities = ("nitrite", "ammonia", *extra) if best.quantity == "nitrite" else quantities
        why += (
            f" {best.quantity.capitalize()} on {best.day:%A} would narrow it most: from {figure(best.width_now, 2)} "
            f"to about {figure(best.width_after, 2)}{NBSP}days."
        )
    if "kh" in extra:
        why += " KH too: what was spent since it was read is much of it."
    return NextTest(quantities, due, why=why, at_hour=due == early)


def _soon_again(s: Situation) -> str:
    """Why the water is looked at again half a day after the last test, '' where it is not: by that test it is over a
    limit by the kit's step, while no change is worth its strain yet; it is under it, after a reading of the same hours
    that was over; or ammonia has come up since the test before, and nitrite follows."""
    if not s.living or s.levels.changed_at is not None:
        return ""
    rests = s.response is not None and s.response.rests
    if rests if s.over else refuted(s.tank, s.entries, s.levels.limits):
        return "The last readings leave open on which side of the limit the water is."
    return "Ammonia has come up since the test before; nitrite follows within hours." if _came_up(s) else ""


def _came_up(s: Situation) -> bool:
    """Ammonia that is worth a pinch at most, read a step or more lower at the last look before this one."""
    read = readings_of(s.entries, "ammonia", 12)
    if not read or read[0].value < MUCH_MG_N_L:
        return False
    before = next((r for r in read if read[0].at - r.at > EARLIER), None)
    return before is not None and before.reading.high is not None and before.reading.high <= read[0].reading.low + 1e-9


def _wanted(s: Situation) -> NextTest | None:
    """What findings want today and the log does not have from the last hours."""
    repeat: list[str] = []
    fresh: list[str] = []
    reason = ""
    for f in s.findings:
        if f.severity < Severity.TEST:
            continue
        for q in f.tests:
            again = f.key in REPEATS and f.severity >= Severity.TEST
            if again or not _read_lately(s, q):
                (repeat if again else fresh).append(q)
                reason = reason or f.row.why
    if not repeat and not fresh:
        return None
    both = tuple(q for q in ORDER if q in {*repeat, *fresh})
    return NextTest(both, s.now, bool(repeat), reason)


def _read_lately(s: Situation, quantity: str) -> bool:
    last = s.entries.latest(quantity)
    return last is not None and s.now - last.at <= READ_LATELY


def _why(s: Situation) -> str:
    if s.episode is not None and s.episode.open:
        return f"{CLEAN_DAYS} clean days in a row end the upset."
    return "It sets the date of the next batch." if s.next_batch else f"The rhythm of {s.school.name}."


def _held_otherwise(gate: Gate) -> bool:
    """Something that no test opens keeps the gate shut today: a test for it would be one for nothing."""
    return any(c.key not in BY_TEST for c in gate.holding)


# What a test of ammonia and nitrite can open
BY_TEST = frozenset(
    {
        "fresh_ammonia", "fresh_nitrite", "p_safe", "first_day", "clears_dose", "clean_run", "seen_working", "rest",
        "upset", "trace", "stale", "ammonia_over", "nitrite_over", "repeat_high",
    }
)  # fmt: skip


def _rhythm(s: Situation, last: datetime) -> datetime:
    """By the school's rhythm, daily near the end, in an upset and after arrivals, and as often as any finding asks.

    While a tank cycles without animals, the day on which a test narrows the date most may bring it forward, or put
    it off by a day or two: a test that can tell nothing yet is a test for nothing.
    """
    rhythm = s.school.rhythm_days
    near = s.forecast.readiness.p25 is not None and (s.forecast.readiness.p25 - s.now.date()).days <= 5
    arrivals = [e.at for e in newcomers(s.entries)]
    fresh = bool(arrivals) and s.now - arrivals[-1] < timedelta(days=7)
    if (s.episode and s.episode.open) or fresh:
        rhythm = 1.0
    elif s.living and not s.school.fish_in:
        rhythm = 7.0
    elif near:
        rhythm = s.school.rhythm_near_end_days
    if s.findings.rhythm_days:
        rhythm = min(rhythm, s.findings.rhythm_days)
    due = last + timedelta(days=rhythm)
    dosed = [e.at for e in s.entries.kinds(Dose)[-1:] if e.at > last]
    if dosed and not s.living and (near or s.school.feeds_by != "dose" or s.school.rhythm_days <= 1):
        due = dosed[0] + timedelta(days=1)  # the proof asks for the water a day after the dose
    pays = test_pays_on(s)
    if pays is not None:  # counted from now: the forecast knows the last test, and what went in after it
        due = min(s.now + timedelta(days=pays), last + timedelta(days=LONGEST_DAYS))
        return max(due, last + timedelta(days=1) - EARLIER, s.now)
    best = telling_test(s)
    if best is not None and not near:
        due += min(timedelta(days=(best.day - due.date()).days), PUT_OFF)
    batch = s.next_batch
    gate = s.next_gate
    if s.living and batch is not None and gate is not None and not _held_otherwise(gate):
        # the gate asks for fresh tests on the day of a batch
        due = min(due, datetime.combine(batch.planned, time(9), s.now.tzinfo))
        due = max(due, last + timedelta(days=1) - EARLIER)
    return max(due, s.now)
