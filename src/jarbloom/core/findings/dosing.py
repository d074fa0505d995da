"""Ammonia given to a tank in which animals live."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import timedelta

import numpy as np

from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.findings import Severity
from jarbloom.core.upset.credible import readings_of
from jarbloom.core.upset.levels import NOTHING_GONE, doses_over_animals
from jarbloom.core.water.ammonia import unionised_range
from jarbloom.units import figure, mg_text

LOOKED_BACK = 24 * 14  # hours
LEFT_AT_WORST = 0.95  # once the bloom had some hours: this quantile of the members, who have heard of the dose
LEAST_SHARE, MOST_SHARE = 0.25, 0.50  # of the water, at once


@rule("dosed_over_animals")
def dosed_over_animals(facts: Facts) -> Iterable[Found]:
    doses = doses_over_animals(facts.log, facts.since(LOOKED_BACK)) if facts.alive else ()
    if not doses:
        yield from _by_words(facts)
    if not doses or facts.tested_clean(doses[-1].at):
        return
    last, lv = doses[-1], facts.levels
    given = sum(e.body.mg_n for e in doses if last.at - e.at <= timedelta(days=1)) / facts.volume
    read = next(iter(readings_of(facts.log, "ammonia")), None)
    words = f"{mg_text(given)} of ammonia as N came into water in which animals live"
    if read is not None and read.order > last.order:
        yield Found(
            f"{words}, and was read since: until two days of tests are clean it may come again as nitrite.",
            facts.now, ids(doses), Severity.TEST, acts=(), share=0.0,
        )  # fmt: skip
        return
    most = float(unionised_range(lv.ph, lv.temp_c, lv.salinity_g_kg)[1])
    worst, limit = most * _left(facts, doses), lv.limits.nh3
    told = f"{words}: at worst {mg_text(worst)} of it is free ammonia at pH {figure(lv.ph)}"
    if worst >= limit:
        share = min(MOST_SHARE, max(LEAST_SHARE, 1 - 0.5 * limit / worst))
        yield Found(
            f"{told}, over the limit of {figure(limit)} for the animals here.", facts.now, ids(doses), share=share
        )
    else:
        yield Found(
            f"{told}, of a limit of {figure(limit)} for the animals here; a rise of the pH frees more.",
            facts.now, ids(doses), Severity.TEST, acts=(), share=0.0,
        )  # fmt: skip


def _by_words(facts: Facts) -> Iterable[Found]:
    """Ammonia that was poured in by the words of the log, nobody knows how much."""
    said = facts.said("ammonia_in", hours=LOOKED_BACK) if facts.alive else ()
    if not said or facts.tested_clean(said[-1].at):
        return
    read = next(iter(readings_of(facts.log, "ammonia")), None)
    since = read is not None and read.at > said[-1].at
    told = "was read since: two days of clean tests are asked" if since else "how much is not known: test it now"
    yield Found(
        f"Ammonia came into water in which animals live, by your words, and {told}.", facts.now, ids(said),
        Severity.TEST if since else None, acts=() if since else None, share=0.0 if since else LEAST_SHARE,
    )  # fmt: skip


def _left(facts: Facts, doses: Sequence[Entry[Dose]]) -> float:
    """TAN that may stand there now, mg N/L: what was given, less what was changed out; once the bloom had some hours no
    more than the members hold, who have heard of the dose."""
    held = 0.0
    for e in doses:
        kept = np.prod([1 - (c.body.fraction or 0.0) for c in facts.changes if c.at > e.at])
        held += float(kept) * e.body.mg_n / facts.volume
    sample = facts.forecast.sample
    if facts.now - doses[-1].at <= NOTHING_GONE or not sample.size:
        return held
    return min(held, float(np.quantile(sample.tan, LEFT_AT_WORST)))
