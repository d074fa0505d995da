"""An animal against the tank and its own kind, for life: ALONE is the table of rules. Numbers: docs/science.md,
compatibility; the rest is practice as told at each constant."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from datetime import timedelta

from jarbloom.core.animals.company import Case, Finding, Member, many, told
from jarbloom.core.animals.growth import reaches
from jarbloom.core.animals.home import FLOWS
from jarbloom.core.animals.names import plural
from jarbloom.core.model.tank import MARINE_FROM_G_KG
from jarbloom.units import NBSP, figure

TURNING = 0.8  # an adult longer than this share of the width hardly turns (judgement)
# The most of a kind by its row's sex_ratio
KEPT_SINGLY = {"one": 1, "one or a pair": 2, "a pair, or one": 2, "one male alone or a pair": 2}
SOON = timedelta(days=150)  # outgrown before a larger tank would be ready: it counts as today
NEARLY_A_GROUP = 0.75  # of the smallest group: they are told of it, and live
WARM_SPELL_K = 2.0  # above its range for some days of the year: watched, not forbidden (judgement)
SHOAL = 5  # kept in so many or more: it has its own to chase
NIPPED_GROUP = 10  # of a nipper's own: it keeps to itself, mostly
SHARED_OUT = 6  # fewer of a quarrelsome kind, and one of them takes all the chasing (practice)
PAIR_THEMSELVES = ("Amphiprion",)  # two young ones settle who becomes the female; the quarrelsome of them do not


def _water(m: Member, c: Case) -> Iterator[Finding]:
    k, h, u = m.kind, c.home, c.units
    if not k.salt_low - 1 <= h.salinity_g_kg <= k.salt_high + 1:
        has = f"{figure(h.salinity_g_kg)}{NBSP}g/kg" if h.salinity_g_kg else "fresh water"
        wants = f"{figure(k.salt_low)} to {figure(k.salt_high)}{NBSP}g/kg" if k.salt_high > 1 else "fresh water"
        yield told("salinity", "apart", "safety", m, f"{many(k)} live in {wants}; here is {has}.", "another tank")
        return
    if h.seasons_c is not None:
        yield from _seasons(m, c, h.seasons_c)
    elif not k.temp_low <= h.temp_c <= k.temp_high:
        text = f"{many(k)} live at {u.temp(k.temp_low)} to {u.temp(k.temp_high)}; here are {u.temp(h.temp_c)}."
        yield told("temp", "apart", "safety", m, text, "another temperature, where the others bear it")
    if h.salinity_g_kg < MARINE_FROM_G_KG and not k.ph_low <= h.ph <= k.ph_high:
        far = min(abs(h.ph - k.ph_low), abs(h.ph - k.ph_high)) > 0.5
        text = f"{many(k)} live at pH {figure(k.ph_low)} to {figure(k.ph_high)}; here is {figure(h.ph)}."
        yield told("ph", "apart" if far else "watch", "practice", m, text, "other water")
    if h.gh_dgh is not None and not k.gh_low <= h.gh_dgh <= k.gh_high:
        text = f"{many(k)} live at {figure(k.gh_low)} to {figure(k.gh_high)} dGH; the water has {figure(h.gh_dgh)}."
        yield told("gh", "watch", "taste", m, text, "mixed water")


def _seasons(m: Member, c: Case, seasons_c: tuple[float, float]) -> Iterator[Finding]:
    """Without a heater the water follows the room through the year: both of its ends have to be borne."""
    k, u = m.kind, c.units
    cold, warm = seasons_c
    lives = f"{many(k)} live at {u.temp(k.temp_low)} to {u.temp(k.temp_high)}; without a heater this water"
    if cold < k.temp_low:
        text = f"{lives} falls to {u.temp(cold)} with its room."
        yield told("temp", "apart", "safety", m, text, "a heater")
    if warm > k.temp_high:
        far = warm > k.temp_high + WARM_SPELL_K
        text = f"{lives} rises to {u.temp(warm)} in the warmest days."
        yield told("temp", "apart" if far else "watch", "safety", m, text, "a cooler room, or a fan over the water")


def _room(m: Member, c: Case) -> Iterator[Finding]:
    k, h, u = m.kind, c.home, c.units
    least = h.least_litres(k)
    if h.litres < 0.95 * least:
        mine, other = ("experienced", "cautious") if h.experienced else ("cautious", "experienced")
        text = (
            f"{many(k)} need {u.volume(least)} ({mine} school; {u.volume(h.other_least_litres(k))} {other}); "
            f"here are {u.volume(h.litres)}."
        )
        if h.litres >= 0.8 * k.min_l_experienced:
            yield told("litres", "watch", "practice", m, text, "a larger tank")
        else:
            yield _outgrown(m, c, text)
    if h.length_cm is not None and h.length_cm < 0.95 * h.least_length_cm(k):
        why = " They swim much" if k.swims == "active" else ""
        text = f"{many(k)} want a tank {u.length(h.least_length_cm(k))} long; this one is {u.length(h.length_cm)}.{why}"
        yield told("footprint", "watch", "practice", m, text + ("." if why else ""), "a longer tank")
    if h.width_cm is not None and k.moves and k.adult_cm > TURNING * h.width_cm and k.body != "eel":
        text = f"Grown up, at {u.length(k.adult_cm)}, they can hardly turn in {u.length(h.width_cm)} of width."
        yield told("turning", "apart", "practice", m, f"{many(k)}: {text[0].lower()}{text[1:]}", "a deeper tank")


def _outgrown(m: Member, c: Case, text: str) -> Finding:
    """Far too small for life: today, or from the length on that so many litres bear. Minima go with the square of the
    length (judgement: room to turn and what it puts out)."""
    bears = m.kind.adult_cm * math.sqrt(c.home.litres / m.kind.min_l_experienced)
    on = reaches(m.animals, m.kind, bears, c.today)
    if on is None or on <= c.today + SOON:
        return told("litres", "apart", "practice", m, text, "a larger tank")
    grown = f" From about {on:%B %Y}, at {c.units.length(round(bears))}, they have outgrown it."
    return told("litres", "apart", "practice", m, text + grown, "a larger tank before that day", on)


_CURRENTS = {"still": "still water", "gentle": "a gentle current", "general": "a moderate current",
             "brisk": "a brisk current"}  # fmt: skip


def _kept_rightly(m: Member, c: Case) -> Iterator[Finding]:
    k, h = m.kind, c.home
    there = c.count(k.key)
    if there < k.group_min:
        text = f"{many(k)} live in groups of {k.group_min} or more; {there} would be there."
        severity = "note" if there >= NEARLY_A_GROUP * k.group_min else "watch"
        yield told("group", severity, "practice", m, text, f"{k.group_min - there} more")
    if k.jumps and not h.lid:
        yield told("lid", "apart", "safety", m, f"{many(k)} jump or climb, and no lid is recorded.", "a lid")
    low, high = FLOWS.get(k.flow, (0.0, 99.0))
    if h.turnover and not low <= h.turnover <= high:
        way = "less" if h.turnover > high else "more"
        text = f"{many(k)} like {_CURRENTS[k.flow]}; the filters turn it over {figure(h.turnover, 2)} times an hour."
        yield told("flow", "watch", "taste", m, text, f"{way} flow, or a quiet corner")
    if k.maturity_months and h.age_months(c.today) < k.maturity_months:
        old = h.started + timedelta(days=round(30.44 * k.maturity_months))
        months = f"{figure(k.maturity_months)} month{'s' if k.maturity_months != 1 else ''}"
        text = f"{many(k)} need a tank that has run for {months}, from {old:%-d %b %Y}: being cycled is not enough."
        yield told("maturity", "apart", "practice", m, text, f"an older tank (from {old:%-d %b %Y})")
    if k.refusal == "high":
        yield told("refusal", "watch", "taste", m, f"{many(k)} often refuse food: {k.feeding}.", "seeing it eat first")


def _habits(m: Member, c: Case) -> Iterator[Finding]:
    k, h = m.kind, c.home
    if k.eats_plants and h.planted:
        yield told("plants", "watch", "taste", m, f"{many(k)} eat plants, and this tank is planted.", "tough plants")
    if k.digs and h.planted:
        yield told("digs", "note", "taste", m, f"{many(k)} dig: plants may float in the morning.", "potted plants")
    if k.sex_ratio not in ("any", "unknown", ""):
        yield told("sexes", "note", "practice", m, f"{many(k)}: {k.sex_ratio}.", "asking the seller for the sexes")
    if k.tank_bred == "wild mostly":
        yield told("wild", "note", "taste", m, f"{many(k)} are mostly caught in the wild.", "asking for tank-bred ones")


def _nipper(m: Member, c: Case) -> Iterator[Finding]:
    """Whom a nipper pesters: everybody; one that lives in a shoal the less, the more there are of its own."""
    k = m.kind
    if k.nips_fins != "yes" or not any(o.kind.group == "fish" and o.kind.key != k.key for o in c.members):
        return
    if k.group_min >= SHOAL:
        text = f"{many(k)} nip and chase: only with quick company, and many of their own."
        help_ = f"{NIPPED_GROUP} or more of them, and no slow ones"
    else:
        text, help_ = f"{many(k)} nip and chase: only with quick company.", "no slow ones beside them"
    yield told("nipper", "watch", "taste", m, text, help_)


def _own_kind(m: Member, c: Case) -> Iterator[Finding]:
    """Several of a kind of which each holds ground."""
    k = m.kind
    most = KEPT_SINGLY.get(k.sex_ratio)
    if most is not None:
        if m.animals.count > most:
            are = "singly" if most == 1 else "singly or in a pair"
            text = f"{many(k)} are kept {are}: {m.animals.count} of them fight until one is left."
            severity = "watch" if k.territory == "none" else "apart"
            help_ = "one only" if most == 1 else "one, or a settled pair"
            yield told("own_kind", severity, "safety", m, text, help_)
        elif m.animals.count == most == 2:
            yield from _two_strangers(m)
        return
    several = m.animals.count > 1 and k.territory == "strong"
    if several and k.sex_ratio.startswith("one male") and "alone" not in k.sex_ratio:
        text = f"Males of {plural(k.name, 2)} fight: {k.sex_ratio}."
        enough = min(SHARED_OUT, k.group_min) if k.group_min > 1 else SHARED_OUT
        severity = "watch" if m.animals.count < enough and k.temperament in ("semi-peaceful", "aggressive") else "note"
        yield told("own_kind", severity, "practice", m, text, "knowing the sexes before they come")
        return
    if k.group_min > 1 or k.territory != "strong" or m.animals.count < 2:
        return
    if "alone" in k.sex_ratio:
        text = f"{many(k)} fight their own kind: {k.sex_ratio}."
        yield told("own_kind", "apart", "safety", m, text, "one only")
    elif k.temperament == "aggressive":
        text = f"{many(k)} may fight their own kind once they hold ground."
        yield told("own_kind", "watch", "practice", m, text, "one only, or a way to part them")


def _two_strangers(m: Member) -> Iterator[Finding]:
    """Two of a kind that is kept in a settled pair or singly."""
    k = m.kind
    if k.temperament == "aggressive" or (k.temperament == "semi-peaceful" and k.genus not in PAIR_THEMSELVES):
        text = f"Two {plural(k.name, 2)} are a pair, or they fight: strangers seldom settle."
        yield told("pair", "watch", "practice", m, text, "a settled pair, or one only")


ALONE: tuple[Callable[[Member, Case], Iterator[Finding]], ...] = (
    _water, _room, _kept_rightly, _habits, _nipper, _own_kind,
)  # fmt: skip
