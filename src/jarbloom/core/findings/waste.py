"""Ammonia and nitrite against what those who live here bear, now and within the next days."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import timedelta

import numpy as np

from jarbloom.core.bloom.capacity import QUANTILES
from jarbloom.core.findings.facts import Facts
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.clean import WASTE, reading_is_clean, too_coarse
from jarbloom.core.journal.kinds.bed import BedStirred
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import LastReading
from jarbloom.core.model.findings import Feeding, Severity
from jarbloom.core.model.kit import Reading
from jarbloom.core.upset.credible import CONFIRMED_WITHIN, readings_of
from jarbloom.core.water.ammonia import NH3_BANDS, NITRITE_BANDS, epa_chronic_tan
from jarbloom.units import NBSP, figure, mg_text, percent

HARMS_IN_HOURS = NH3_BANDS[3].upto, 5 * NITRITE_BANDS[2].upto  # mg N/L: above these nobody waits for a second test
WITHOUT_MUSSELS = 3.5  # the chronic criterion of fish alone, about (EPA 2013, appendix on mussels absent)
AHEAD_DAYS, AHEAD_SHARE = 5, 0.10
BELIEVED = 0.3  # of the members over the limit: less, and a single reading is repeated before the water is changed
JUST_READ, A_DAY = timedelta(hours=12), timedelta(hours=26)
RISING = 1.3  # over what may stand there today (judgement)
COARSE = 0.2  # a kit that misreads a neighbouring step this often, or whose first step is wide
SEA_FACTOR = 10.0
ANSWERED_WITHIN = timedelta(days=2)
MUCH_MG_N_L = 0.4  # of either, whatever the pH makes of it: a pinch is enough until it falls


def _age(facts: Facts, seen: LastReading) -> str:
    hours = (facts.now - seen.at).total_seconds() / 3600
    return f"{hours:.0f}{NBSP}h ago" if hours < 48 else f"{hours / 24:.0f} days ago"


def _ph_words(facts: Facts) -> str:
    lv = facts.levels
    if lv.ph_measured:
        return f"pH {figure(lv.ph)}"
    if lv.ph_age_days is not None:
        return f"pH {figure(lv.ph)} (read {lv.ph_age_days:.0f} days ago, or as set)"
    return f"pH {figure(lv.ph)} (as set, never read)"


def explained(facts: Facts, foreseen: bool = False, hours: float = 24 * 10) -> bool:
    """Something in the log of these `hours` makes a spike likely, whatever the forecast thinks of the reading: signs,
    deaths, food, media, power, medicine, newcomers. `foreseen`: newcomers are what the forecast reckons with, and what
    was followed by two clean days has had its spike, lost media aside."""
    signs = ("gasp", "breath", "redgill", "browngill", "dart", "list", "dead", "bottom", "inflow")
    events = ("overfed", "overfed_a_bit", "foodleft", "media_tap", "media_new", "media_dry", "bed_out", "stood",
              "power_out", "medicine", "came", "fry", "gone", "short_count", "half_eaten", "unmoved",
              "untreated")  # fmt: skip
    happened = facts.lately(hours, Death, PowerCut, Birth, BedStirred, Dose)
    last = facts.log.kinds(Tested)[-1:]
    if foreseen and happened and last and facts.tested_clean(happened[-1].at, last[0].at):
        happened = ()
    return bool(
        happened or facts.lately(hours, MediaCleaned)
        or facts.said(*signs, hours=min(72, hours)) or facts.said(*events, hours=hours)
        or (not foreseen and facts.newcomers(hours))
    )  # fmt: skip


def unlikely_high(facts: Facts, quantity: str) -> bool:
    """One unlikely high reading of a coarse kit whose worst credible value does not harm within hours."""
    seen = facts.credible[quantity]
    odd = seen.doubt == "high" and not explained(facts)
    if not odd and not _not_believed(facts, quantity):
        return False
    if not odd and explained(facts, foreseen=True) and not _clean_since(facts, quantity):
        return False
    spread = facts.levels.nh3 if quantity == "ammonia" else facts.levels.no2
    harms = HARMS_IN_HOURS[0] if quantity == "ammonia" else HARMS_IN_HOURS[1]
    return spread is not None and spread.high < harms


def _clean_since(facts: Facts, quantity: str) -> bool:
    """Whatever happened, the test before, of the last day, was clean of this, and nothing has happened since then."""
    last, before = [*readings_of(facts.log, quantity)[:2], None, None][:2]
    if last is None or before is None or facts.now - before.at > A_DAY:
        return False
    if not reading_is_clean(before.reading, facts.tank.kit):
        return False
    return not explained(facts, foreseen=True, hours=(facts.now - before.at).total_seconds() / 3600)


def _not_believed(facts: Facts, quantity: str) -> bool:
    """The forecast has heard the last reading, and few of its members are over the limit all the same; nothing has been
    done to the water since, and no other look at it came to the same."""
    seen, sample = facts.credible[quantity], facts.forecast.sample
    last = seen.last
    if last is None or seen.reading is not last or not sample.size or last.reading.high is None:
        return False
    if last.reading.outer_low > 0:
        return False  # only what may be a misread zero
    if not timedelta() <= facts.forecast.as_of - last.at <= JUST_READ or facts.levels.changed_at is not None:
        return False
    before = [r for r in readings_of(facts.log, quantity)[1:5] if last.at - r.at <= CONFIRMED_WITHIN]
    today = [r for r in before if r.at.date() == last.at.date()]
    lately = [*today, *before[len(today) :][:1]]  # and the last of the day with a test before it
    if any(r.reading.low >= last.reading.low for r in lately):
        return False  # two in a row act
    lv = facts.levels
    if quantity == "nitrite":
        return lv.no2_over and float((sample.no2 >= lv.no2_acts_at).mean()) < BELIEVED
    if not lv.nh3_over or lv.tan is None or lv.nh3 is None or lv.tan.seen <= 0:
        return False
    return float((sample.tan * (lv.nh3.seen / lv.tan.seen) >= lv.limits.nh3).mean()) < BELIEVED


@rule("ammonia_over")
def ammonia_over(facts: Facts) -> Iterable[Found]:
    lv, seen = facts.levels, facts.credible["ammonia"]
    if not facts.alive or lv.nh3 is None or not lv.nh3_over or seen.reading is None:
        return
    if unlikely_high(facts, "ammonia"):
        return
    told = "should be, after the change, about" if lv.changed_at else "is about"
    told = "should be, with what was dosed since, about" if lv.dosed_at else told
    yield Found(
        f"Free ammonia {told} {mg_text(lv.nh3.seen)} as N, by the kit’s step {figure(lv.nh3.low, 2)} to "
        f"{figure(lv.nh3.high, 2)}, at {_ph_words(facts)} and {facts.units.temp(lv.temp_c)}; the limit for the "
        f"animals here is {figure(lv.limits.nh3)}.",
        facts.now, (seen.reading.entry_id,),
        short=f"Free ammonia {told} {mg_text(lv.nh3.seen)}; the limit here is {figure(lv.limits.nh3)}.",
    )  # fmt: skip


@rule("nitrite_over")
def nitrite_over(facts: Facts) -> Iterable[Found]:
    lv, seen = facts.levels, facts.credible["nitrite"]
    if not facts.alive or lv.no2 is None or not lv.no2_over or seen.reading is None:
        return
    if unlikely_high(facts, "nitrite"):
        return
    told = "should be, after the change, about" if lv.changed_at else "is about"
    yield Found(
        f"Nitrite {told} {mg_text(lv.no2.seen)} as N, by the kit’s step {figure(lv.no2.low, 2)} to "
        f"{figure(lv.no2.high, 2)}; the limit here is {figure(lv.no2_acts_at)}.",
        facts.now, (seen.reading.entry_id,),
        short=f"Nitrite {told} {mg_text(lv.no2.seen)}; the limit here is {figure(lv.no2_acts_at)}.",
    )  # fmt: skip


@rule("sea_nitrite")
def sea_nitrite(facts: Facts) -> Iterable[Found]:
    lv, seen = facts.levels, facts.credible["nitrite"]
    if not facts.tank.marine or lv.no2 is None or lv.no2_over or seen.reading is None:
        return
    if reading_is_clean(seen.reading.reading, facts.tank.kit) or not facts.alive:
        return
    yield Found(
        f"Nitrite reads {seen.reading.reading.typed}; in sea water it is acted on at {figure(lv.no2_acts_at)}, and "
        "holds new animals until it reads clean.",
        seen.reading.at, (seen.reading.entry_id,),
    )  # fmt: skip


@rule("repeat_high")
def repeat_high(facts: Facts) -> Iterable[Found]:
    if not facts.alive:
        return
    for quantity in WASTE:
        seen = facts.credible[quantity]
        if seen.reading is None or not unlikely_high(facts, quantity):
            continue
        worst = facts.levels.nh3 if quantity == "ammonia" else facts.levels.no2
        assert worst is not None
        named = "free ammonia" if quantity == "ammonia" else "nitrite"
        yield Found(
            f"{quantity.capitalize()} {seen.reading.reading.typed} does not fit the other readings; at worst it would "
            f"be {mg_text(worst.high)} of {named}, which does not harm within hours: repeat it first, doubtful as it "
            "is. Two in a row are believed.",
            facts.now, (seen.reading.entry_id,), tests=(quantity,),
        )  # fmt: skip


@rule("trace")
def trace(facts: Facts) -> Iterable[Found]:
    if not facts.alive:
        return
    for quantity in WASTE:
        seen = facts.credible[quantity]
        if (
            seen.reading is None
            or reading_is_clean(seen.reading.reading, facts.tank.kit)
            or _only_coarse(facts, quantity, seen.reading.reading)
        ):
            continue
        if seen.reading.reading.low <= 0:
            yield Found(
                f"{quantity.capitalize()} reads {seen.reading.reading.typed}, {_age(facts, seen.reading)}: anything up "
                f"to {figure(seen.reading.reading.high or 0.0)}{NBSP}mg/L as N, and not clean. Read it again tomorrow.",
                facts.now, (seen.reading.entry_id,), Severity.WATCH,
            )  # fmt: skip
            continue
        yield Found(
            f"{quantity.capitalize()} reads {seen.reading.reading.typed}, {_age(facts, seen.reading)}: a bloom that "
            "keeps up leaves none.",
            facts.now, (seen.reading.entry_id,),
            feeding=Feeding.PINCH if seen.reading.value >= MUCH_MG_N_L else None,
        )  # fmt: skip


def _only_coarse(facts: Facts, quantity: str, reading: Reading) -> bool:
    """The lowest step of a kit that cannot show less."""
    return reading.low <= 0 and too_coarse(facts.tank.kit, quantity)


@rule("total_chronic")
def total_chronic(facts: Facts) -> Iterable[Found]:
    yield from _total(facts, 1.0, WITHOUT_MUSSELS)


@rule("total_chronic_fish")
def total_chronic_fish(facts: Facts) -> Iterable[Found]:
    yield from _total(facts, WITHOUT_MUSSELS, float("inf"))


def _total(facts: Facts, low: float, high: float) -> Iterable[Found]:
    """Total ammonia between two multiples of the chronic criterion, in fresh water with animals in."""
    lv, seen = facts.levels, facts.credible["ammonia"]
    if not facts.alive or facts.salted or lv.tan is None or seen.reading is None or lv.ph > 7.2:
        return
    criterion = epa_chronic_tan(lv.ph, lv.temp_c)
    if not low * criterion <= lv.tan.high < high * criterion or lv.tan.seen < 0.75 * low * criterion:
        return
    yield Found(
        f"Total ammonia is about {mg_text(lv.tan.seen)} as N at pH {figure(lv.ph)}: the long-term criterion is "
        f"{figure(criterion, 2)}, for fish alone about {figure(WITHOUT_MUSSELS * criterion, 2)}. Hardly any of it is "
        "free now; NH3 rises ten-fold with each unit of pH. Below pH 6.5 the low pH stops the bacteria.",
        facts.now, (seen.reading.entry_id,),
    )  # fmt: skip


@rule("upset_open")
def upset_open(facts: Facts) -> Iterable[Found]:
    upset = facts.episode
    if upset is None or not upset.open:
        return
    words = {0: "no clean day yet", 1: "one clean day"}.get(upset.clean_days, f"{upset.clean_days} clean days")
    yield Found(f"The upset of {upset.since:%-d %b} is not over: {words}; two in a row are asked.", facts.now)


@rule("feeding_ladder")
def feeding_ladder(facts: Facts) -> Iterable[Found]:
    """Back to the whole ration in steps: a colony that stood is smaller than the appetite."""
    upset = facts.episode
    if upset is None or upset.over_on is None or not facts.alive:
        return
    day = (facts.now.date() - upset.over_on).days + 1
    rung = next(((last, food) for last, food in LADDER if day <= last), None)
    if rung is None:
        return
    on = upset.over_on + timedelta(days=LADDER[-1][0])
    words = {Feeding.PINCH: "a quarter", Feeding.HALF: "half", Feeding.MOST: "three quarters"}[rung[1]]
    yield Found(f"Day {day} after the upset: {words} of the food, all of it from {on:%a %-d %b}.", facts.now,
                feeding=rung[1])  # fmt: skip


LADDER = ((2, Feeding.PINCH), (4, Feeding.HALF), (7, Feeding.MOST))  # to which day after the upset, and how much


@rule("never_answered")
def never_answered(facts: Facts) -> Iterable[Found]:
    lv = facts.levels
    over = facts.credible["ammonia"].reading or facts.credible["nitrite"].reading
    if not facts.alive or over is None or lv.at is None or not lv.over or facts.now - lv.at < ANSWERED_WITHIN:
        return
    days = (facts.now - lv.at).days
    yield Found(
        f"The last readings, {days} days ago, were over the limits, and nothing was measured since: the last known "
        "value stands until it is measured again.",
        facts.now, (over.entry_id,),
    )  # fmt: skip


@rule("ahead_over")
def ahead_over(facts: Facts) -> Iterable[Found]:
    """By the upper quantiles of the forecast: the 90th over a limit means that more than a tenth are."""
    f, lv = facts.forecast, facts.levels
    if not facts.alive or lv.over or f.last_reading is None:
        return
    upper = QUANTILES.index(0.90)
    last = min(f.today + AHEAD_DAYS, len(f.days) - 1)
    for name, limit, words in (("nh3", lv.limits.nh3, "free ammonia"), ("no2", lv.no2_acts_at, "nitrite")):
        course = f.bands[name][upper, f.today : last + 1]
        if not (course > limit).any() or course.max() < RISING * max(float(course[0]), 0.5 * limit):
            continue  # what is only left of today's doubt about a clean reading is no spike ahead
        day = f.days[f.today + int(np.argmax(course > limit))]
        yield Found(
            f"More than {percent(AHEAD_SHARE)} of the forecasts put {words} over {figure(limit)} by {day:%a %-d %b}: "
            "test tomorrow at the latest, and take out what was not eaten.",
            facts.now, severity=Severity.WATCH,
        )  # fmt: skip
