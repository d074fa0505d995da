"""All rules over a tank and a moment: the one list that verdict, jobs, food, gate and tests are read from."""

from __future__ import annotations

from datetime import timedelta

from jarbloom.core.findings import (
    animals,
    chemistry,
    colony,
    dosing,
    feeding,
    losses,
    machines,
    new_water,
    oxygen,
    poison,
    salt,
    settlers,
    tests,
    warmth,
    waste,
    words,
)
from jarbloom.core.findings.facts import Facts
from jarbloom.core.findings.finding import RULES, Finding, Findings
from jarbloom.core.model.findings import Severity

MODULES = (
    animals, chemistry, colony, dosing, feeding, losses, machines, new_water, oxygen, poison, salt, settlers,
    tests, warmth, waste, words,
)  # fmt: skip
# What one finding says already, another need not say again: the weaker is dropped where the stronger stands.
COVERED = {
    "trace": ("ammonia_over", "nitrite_over", "repeat_high", "media_lost_trace", "upset_open", "gills_waste",
              "sea_nitrite", "hidden_body"),
    "total_chronic": ("total_chronic_fish", "ammonia_over"),
    "kh_low": ("kh_spent", "kh_corals"),
    "kh_corals": ("kh_spent",),
    "warm": ("too_hot", "heater_on", "heat_corals"),
    "too_hot": ("heater_on",),
    "too_cold": ("heater_dead",),
    "temp_step": ("too_hot", "too_cold", "heater_on", "heater_dead", "cold_refill", "thermometers"),
    "kh_high": ("kh_step",),
    "salinity_off": ("salinity_high", "salinity_low"),
    "salinity_unread": ("salt_unknown", "topup_salt", "topoff_stuck"),
    "lying": ("nerves", "gills", "gills_waste"),
    "off_colour": ("nerves", "gills", "gills_waste", "lying", "parasite"),
    "media_lost": ("media_lost_trace",),
    "death": ("death_series",),
    "missing": ("jumped", "missing_night"),
    "exposed": ("toxin", "inverts_first"),
    "new_thing": ("toxin", "exposed"),
    "milky": ("overfed",),
    "food_left": ("overfed",),
    "upset_open": ("ammonia_over", "nitrite_over"),
    "stale": ("never_tested", "never_answered"),
    "parasite": ("dust",),
    "ph_off": ("co2", "kh_spent", "nh3_freed"),
    "kh_step": ("kh_spent",),
}  # fmt: skip


def assess(facts: Facts) -> Findings:
    """Every rule once, the worst first. A finding whose evidence is past its hours fades to a watch, then goes."""
    if not facts.tank.filled:
        return Findings()
    found = []
    for key, function in RULES.items():
        row = facts.reference.findings[key]
        for one in function(facts):
            age = facts.now - one.at
            if age > timedelta(hours=row.hours + 24 * row.watch_days):
                continue
            found.append(Finding(row, one, age > timedelta(hours=row.hours)))
    keys = {f.key for f in found if not f.fading}
    left = _unheard_last([f for f in found if not keys.intersection(COVERED.get(f.key, ()))])
    order = {k: n for n, k in enumerate(facts.reference.findings)}
    return Findings(tuple(sorted(left, key=lambda f: (-f.severity, order[f.key]))), bool(facts.said("fry")))


def _unheard_last(found: list[Finding]) -> list[Finding]:
    """Words that nothing understood are told of once, and only where no finding worth a look rests on the entry."""
    told = [f for f in found if f.key != "not_understood" and f.severity >= Severity.WATCH]
    heard = {entry for f in told for entry in f.found.entries}
    unheard = [f for f in found if f.key == "not_understood" and heard.isdisjoint(f.found.entries)]
    return [f for f in found if f.key != "not_understood"] + unheard[:1]
