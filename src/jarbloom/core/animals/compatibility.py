"""Whether animals suit a tank and each other for their whole life. Every finding is a value with its sentence.

The rules stand in two tables at the end: ALONE (an animal against the tank and its own kind) and PAIRS (one against
another). Numbers: docs/science.md, compatibility, the rest is practice as told at each constant.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from itertools import combinations

from jarbloom.core.animals.growth import length_on
from jarbloom.core.animals.home import FLOWS, Home
from jarbloom.core.animals.names import plural
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import MARINE_FROM_G_KG
from jarbloom.units import NBSP, Units, figure

SEVERITIES = ("apart", "watch", "note")  # the worst first
# Body depth of prey as a share of its length, by form: what has to pass a mouth (judgement)
DEPTH = {"eel": 0.07, "elongated": 0.18, "torpedo": 0.24, "deep": 0.42, "shell": 0.7, "crab": 0.6, "star": 0.5,
         "coral": 9.0}  # fmt: skip
TURNING = 0.8  # an adult longer than this share of the width hardly turns (judgement)
SHORTEST_REACH = 0.2
LOOK_AHEAD_YEARS = 6
STEP_DAYS = 14
COLD_TO_C, TROPICAL_FROM_C = 24.0, 20.0  # the upper end of a cold-water animal's range, the lower of a tropical one's
LEAST_SHARED_C = 2.0  # a range that no heater and no summer leaves (judgement)
# Of a bully's adult length: it is killed, it loses every fight, it holds its own (judgement)
SMALL_BESIDE, STILL_SMALLER, AS_LARGE = 0.4, 0.5, 0.9
CROWDED = 2.0  # two strong holders of one zone want this many of their minimum volumes
KEPT_SINGLY = {
    "one": 1,
    "one or a pair": 2,
    "a pair, or one": 2,
    "one male alone or a pair": 2,
}  # the most of a kind by its row's sex_ratio
NIPPED_GROUP = 10  # of a nipper's own: it keeps to itself, mostly


@dataclass(frozen=True)
class Finding:
    """`species` are one or two keys; `on` is the day from which it holds, when it does not hold today."""

    key: str
    severity: str  # apart | watch | note
    hardness: str  # safety | practice | taste
    species: tuple[str, ...]
    sentence: str
    resolve: str = ""
    on: date | None = None


@dataclass(frozen=True)
class Member:
    """Animals of one kind, living or planned, with their row."""

    animals: Animals
    kind: Species

    def length(self, on: date) -> float:
        return length_on(self.animals, self.kind, on)


@dataclass(frozen=True)
class Case:
    """What the rules look at."""

    home: Home
    today: date
    units: Units
    members: tuple[Member, ...]

    def count(self, key: str) -> int:
        return sum(m.animals.count for m in self.members if m.kind.key == key)


def case_of(home: Home, animals: Sequence[Animals], species: Mapping[str, Species], today: date, units: Units) -> Case:
    """Groups of one species are put together: the largest length stands for all (what eats is the largest).

    Animals without a date of arrival grow from today on.
    """
    merged: dict[str, Animals] = {}
    for a in (x if x.since else replace(x, since=today) for x in animals):
        before = merged.get(a.species)
        if before is None:
            merged[a.species] = a
        else:
            larger = max((before, a), key=lambda x: x.length_cm or 0.0)
            merged[a.species] = replace(larger, count=before.count + a.count)
    unknown = species["unknown"]
    return Case(home, today, units, tuple(Member(a, species.get(k, unknown)) for k, a in merged.items()))


def findings(case: Case) -> tuple[Finding, ...]:
    """All of them, the worst and hardest first."""
    found: list[Finding] = []
    for m in case.members:
        for alone in ALONE:
            found += alone(m, case)
    for a, b in combinations(case.members, 2):
        found += pair_findings(a, b, case)
    return in_order(found)


def in_order(found: Sequence[Finding]) -> tuple[Finding, ...]:
    """What holds today before what comes, then the hardest."""
    hardest = {"safety": 0, "practice": 1, "taste": 2}
    return tuple(sorted(found, key=lambda f: (SEVERITIES.index(f.severity), f.on or date.min, hardest[f.hardness])))


def pair_findings(a: Member, b: Member, case: Case) -> list[Finding]:
    found: list[Finding] = []
    for pair in PAIRS:
        found += pair(a, b, case)
    for one_way in ONE_WAY:
        found += one_way(a, b, case)
        found += one_way(b, a, case)
    return found


def _name(kind: Species, count: int = 2) -> str:
    text = plural(kind.name, count)
    return text[0].upper() + text[1:]


def _ground(kind: Species) -> str:
    return "open water" if kind.zone == "open" else kind.zone


def _one(key: str, severity: str, hardness: str, m: Member, sentence: str, resolve: str = "",
         on: date | None = None) -> Finding:  # fmt: skip
    return Finding(key, severity, hardness, (m.kind.key,), sentence, resolve, on)


def _two(key: str, severity: str, hardness: str, a: Member, b: Member, sentence: str, resolve: str = "",
         on: date | None = None) -> Finding:  # fmt: skip
    return Finding(key, severity, hardness, (a.kind.key, b.kind.key), sentence, resolve, on)


# --- against the tank --------------------------------------------------------------------------------


def _water(m: Member, c: Case) -> Iterator[Finding]:
    k, h, u = m.kind, c.home, c.units
    if not k.salt_low - 1 <= h.salinity_g_kg <= k.salt_high + 1:
        has = f"{figure(h.salinity_g_kg)}{NBSP}g/kg" if h.salinity_g_kg else "fresh water"
        wants = f"{figure(k.salt_low)} to {figure(k.salt_high)}{NBSP}g/kg" if k.salt_high > 1 else "fresh water"
        yield _one("salinity", "apart", "safety", m, f"{_name(k)} live in {wants}; here is {has}.", "another tank")
        return
    if not k.temp_low <= h.temp_c <= k.temp_high:
        text = f"{_name(k)} live at {u.temp(k.temp_low)} to {u.temp(k.temp_high)}; here are {u.temp(h.temp_c)}."
        yield _one("temp", "apart", "safety", m, text, "another temperature, where the others bear it")
    if h.salinity_g_kg < MARINE_FROM_G_KG and not k.ph_low <= h.ph <= k.ph_high:
        far = min(abs(h.ph - k.ph_low), abs(h.ph - k.ph_high)) > 0.5
        text = f"{_name(k)} live at pH {figure(k.ph_low)} to {figure(k.ph_high)}; here is {figure(h.ph)}."
        yield _one("ph", "apart" if far else "watch", "practice", m, text, "other water")
    if h.gh_dgh is not None and not k.gh_low <= h.gh_dgh <= k.gh_high:
        text = f"{_name(k)} live at {figure(k.gh_low)} to {figure(k.gh_high)} dGH; the water has {figure(h.gh_dgh)}."
        yield _one("gh", "watch", "taste", m, text, "mixed water")


def _room(m: Member, c: Case) -> Iterator[Finding]:
    k, h, u = m.kind, c.home, c.units
    least = h.least_litres(k)
    if h.litres < 0.95 * least:
        mine, other = ("experienced", "cautious") if h.experienced else ("cautious", "experienced")
        text = (
            f"{_name(k)} need {u.volume(least)} ({mine} school; {u.volume(h.other_least_litres(k))} {other}); "
            f"here are {u.volume(h.litres)}."
        )
        severity = "apart" if h.litres < 0.8 * k.min_l_experienced else "watch"
        yield _one("litres", severity, "practice", m, text, "a larger tank")
    if h.length_cm is not None and h.length_cm < 0.95 * h.least_length_cm(k):
        why = " They swim much" if k.swims == "active" else ""
        text = (
            f"{_name(k)} want a tank {u.length(h.least_length_cm(k))} long; this one is {u.length(h.length_cm)}.{why}"
        )
        yield _one("footprint", "watch", "practice", m, text + ("." if why else ""), "a longer tank")
    if h.width_cm is not None and k.moves and k.adult_cm > TURNING * h.width_cm and k.body != "eel":
        text = f"Grown up, at {u.length(k.adult_cm)}, they can hardly turn in {u.length(h.width_cm)} of width."
        yield _one("turning", "apart", "practice", m, f"{_name(k)}: {text[0].lower()}{text[1:]}", "a deeper tank")


_CURRENTS = {"still": "still water", "gentle": "a gentle current", "general": "a moderate current",
             "brisk": "a brisk current"}  # fmt: skip


def _kept_rightly(m: Member, c: Case) -> Iterator[Finding]:
    k, h = m.kind, c.home
    there = c.count(k.key)
    if there < k.group_min:
        text = f"{_name(k)} live in groups of {k.group_min} or more; {there} would be there."
        yield _one("group", "watch", "practice", m, text, f"{k.group_min - there} more")
    if k.jumps and not h.lid:
        yield _one("lid", "apart", "safety", m, f"{_name(k)} jump or climb, and no lid is recorded.", "a lid")
    low, high = FLOWS.get(k.flow, (0.0, 99.0))
    if h.turnover and not low <= h.turnover <= high:
        way = "less" if h.turnover > high else "more"
        text = f"{_name(k)} like {_CURRENTS[k.flow]}; the filters turn it over {figure(h.turnover, 2)} times an hour."
        yield _one("flow", "watch", "taste", m, text, f"{way} flow, or a quiet corner")
    if k.maturity_months and h.age_months(c.today) < k.maturity_months:
        old = h.started + timedelta(days=round(30.44 * k.maturity_months))
        months = f"{figure(k.maturity_months)} month{'s' if k.maturity_months != 1 else ''}"
        text = f"{_name(k)} need a tank that has run for {months}, from {old:%-d %b %Y}: being cycled is not enough."
        yield _one("maturity", "apart", "practice", m, text, f"waiting until {old:%-d %b %Y}")
    if k.refusal == "high":
        yield _one("refusal", "watch", "taste", m, f"{_name(k)} often refuse food: {k.feeding}.", "seeing it eat first")


def _habits(m: Member, c: Case) -> Iterator[Finding]:
    k, h = m.kind, c.home
    if k.eats_plants and h.planted:
        yield _one("plants", "watch", "taste", m, f"{_name(k)} eat plants, and this tank is planted.", "tough plants")
    if k.digs and h.planted:
        yield _one("digs", "note", "taste", m, f"{_name(k)} dig: plants may float in the morning.", "potted plants")
    if k.sex_ratio not in ("any", "unknown", ""):
        yield _one("sexes", "note", "practice", m, f"{_name(k)}: {k.sex_ratio}.", "asking the seller for the sexes")
    if k.tank_bred == "wild mostly":
        yield _one(
            "wild", "note", "taste", m, f"{_name(k)} are mostly caught in the wild.", "asking for tank-bred ones"
        )


def _nipper(m: Member, c: Case) -> Iterator[Finding]:
    """Whom a nipper pesters: everybody, the more the fewer there are of its own."""
    if m.kind.nips_fins == "yes" and any(o.kind.group == "fish" and o.kind.key != m.kind.key for o in c.members):
        text = f"{_name(m.kind)} nip and chase: only with quick company, and many of their own."
        yield _one("nipper", "watch", "taste", m, text, f"{NIPPED_GROUP} or more of them, and no slow ones")


def _own_kind(m: Member, c: Case) -> Iterator[Finding]:
    """Several of a kind of which each holds ground."""
    k = m.kind
    most = KEPT_SINGLY.get(k.sex_ratio)
    if most is not None:
        if m.animals.count > most:
            are = "singly" if most == 1 else "singly or in a pair"
            text = f"{_name(k)} are kept {are}: {m.animals.count} of them fight until one is left."
            severity = "watch" if k.territory == "none" else "apart"
            help_ = "one only" if most == 1 else "one, or a settled pair"
            yield _one("own_kind", severity, "safety", m, text, help_)
        return
    several = m.animals.count > 1 and k.territory == "strong"
    if several and k.sex_ratio.startswith("one male") and "alone" not in k.sex_ratio:
        text = f"Males of {plural(k.name, 2)} fight: {k.sex_ratio}."
        yield _one("own_kind", "watch", "practice", m, text, "knowing the sexes before they come")
        return
    if k.group_min > 1 or k.territory != "strong" or m.animals.count < 2:
        return
    if "alone" in k.sex_ratio:
        text = f"{_name(k)} fight their own kind: {k.sex_ratio}."
        yield _one("own_kind", "apart", "safety", m, text, "one only")
    elif k.temperament == "aggressive":
        text = f"{_name(k)} may fight their own kind once they hold ground."
        yield _one("own_kind", "watch", "practice", m, text, "one only, or a way to part them")


ALONE: tuple[Callable[[Member, Case], Iterator[Finding]], ...] = (
    _water, _room, _kept_rightly, _habits, _nipper, _own_kind,
)  # fmt: skip


# --- one against another -----------------------------------------------------------------------------


def _window(a: Member, b: Member, c: Case) -> Iterator[Finding]:
    """The water that both live in must exist."""
    for low, high, what, unit in (
        ("salt_low", "salt_high", "salinity", "g/kg"), ("temp_low", "temp_high", "temperature", ""),
        ("ph_low", "ph_high", "pH", ""),
    ):  # fmt: skip
        floor = max(getattr(a.kind, low), getattr(b.kind, low))
        ceiling = min(getattr(a.kind, high), getattr(b.kind, high))
        if floor > ceiling:
            text = f"{_name(a.kind)} and {plural(b.kind.name, 2)} share no {what}: {_span(a.kind, low, high, what, c)}"
            text += f" against {_span(b.kind, low, high, what, c)}{f'{NBSP}{unit}' if unit else ''}."
            yield _two("window", "apart", "safety" if what != "pH" else "practice", a, b, text, "another tank for one")
            return
        cold = [k for k in (a.kind, b.kind) if k.temp_high <= COLD_TO_C]
        if what == "temperature" and len(cold) == 1 and floor >= TROPICAL_FROM_C:
            warm = b.kind if cold[0] is a.kind else a.kind
            text = f"{_name(cold[0])} are cold-water animals, {plural(warm.name, 2)} tropical: one of them suffers."
            yield _two("window", "apart", "practice", a, b, text, "another tank for one")
        elif what == "temperature" and ceiling - floor < LEAST_SHARED_C:
            share = f"{c.units.temp(floor)} to {c.units.temp(ceiling)}"
            text = f"{_name(a.kind)} and {plural(b.kind.name, 2)} share only {share}."
            yield _two("window", "watch", "practice", a, b, text, "a heater and a thermometer that hold it")


def _span(kind: Species, low: str, high: str, what: str, c: Case) -> str:
    first, last = getattr(kind, low), getattr(kind, high)
    if what == "temperature":
        return f"{c.units.temp(first)} to {c.units.temp(last)}"
    return f"{figure(first)} to {figure(last)}"


def _rivals(a: Member, b: Member, c: Case) -> Iterator[Finding]:
    """Kin and look-alikes, and two that hold the same ground."""
    if a.kind.alike and a.kind.alike == b.kind.alike and "none" not in (a.kind.territory, b.kind.territory):
        strong = "strong" in (a.kind.territory, b.kind.territory)
        text = f"{_name(a.kind)} and {plural(b.kind.name, 2)} are alike, and take each other for rivals."
        yield _two(
            "alike", "apart" if strong else "watch", "practice", a, b, text, "one of the two, or a far larger tank"
        )
        return
    if a.kind.zone == b.kind.zone and a.kind.territory == b.kind.territory == "strong":
        wants = CROWDED * max(c.home.least_litres(a.kind), c.home.least_litres(b.kind))
        if c.home.litres < wants:
            text = (
                f"{_name(a.kind)} and {plural(b.kind.name, 2)} both hold the {_ground(a.kind)}; "
                f"that takes about {c.units.volume(wants)}."
            )
            yield _two("ground", "watch", "practice", a, b, text, "caves apart, the stronger one last")


def _land(a: Member, b: Member, c: Case) -> Iterator[Finding]:
    """Who needs land and shallow water, and who needs a full tank."""
    if (a.kind.zone == "land") != (b.kind.zone == "land"):
        dry, wet = (a, b) if a.kind.zone == "land" else (b, a)
        text = f"{_name(dry.kind)} need land with a little water, {plural(wet.kind.name, 2)} a full tank."
        yield _two("land", "apart", "safety", dry, wet, text, "a tank of its own for each")


PAIRS: tuple[Callable[[Member, Member, Case], Iterator[Finding]], ...] = (_window, _land, _rivals)


def swallows(eater: Species, eater_cm: float, prey: Species, prey_cm: float) -> bool:
    """Whether the prey passes the mouth and is not too long to be taken: both must hold.

    `mouth_ratio` is the gape as a share of the eater's length. Small mouths take prey of about a quarter of their own
    length, ambush hunters more than half of it (practice; the sum is a judgement that gives both).
    """
    passes = eater.mouth_ratio * eater_cm >= DEPTH[prey.body] * prey_cm
    short = prey_cm <= (SHORTEST_REACH + eater.mouth_ratio) * eater_cm
    return eater.moves and prey.moves and prey.body != "shell" and passes and short


def swallowed_from(eater: Member, prey: Member, today: date) -> date | None:
    """The first day, today or within six years, on which the prey fits into the mouth as both grow; None: never."""
    if eater.kind.diet not in ("carnivore", "omnivore") or eater.kind.key == prey.kind.key:
        return None
    if not swallows(eater.kind, max(eater.kind.adult_cm, eater.length(today)), prey.kind, prey.length(today)):
        return None  # the largest mouth and the smallest prey do not meet
    for days in range(0, LOOK_AHEAD_YEARS * 365, STEP_DAYS):
        on = today + timedelta(days=days)
        if swallows(eater.kind, eater.length(on), prey.kind, prey.length(on)):
            return on
    return None


def _swallows(eater: Member, prey: Member, c: Case) -> Iterator[Finding]:
    on = swallowed_from(eater, prey, c.today)
    if on is None:
        return
    u = c.units
    text = (
        f"{_name(prey.kind)} of {_about(u, prey.length(on))} fit into the mouth of {plural(eater.kind.name, 2)} of "
        f"{_about(u, eater.length(on))}"
    )
    when = " today." if on <= c.today else f", from about {on:%B %Y}."
    when += " Their spines may choke the one that tries." if prey.kind.spines else ""
    later, by = (None, "another tank") if on <= c.today else (on, "another tank before that day")
    picks = prey.kind.group == "shrimp" and "young" in eater.kind.eats_invertebrates  # grown ones mostly live
    hunts = eater.kind.diet == "carnivore" or eater.kind.temperament in ("semi-peaceful", "territorial", "aggressive")
    severity = "apart" if hunts and not picks else "watch"
    yield _two("mouth", severity, "safety", eater, prey, text + when, by, later)


def _about(u: Units, cm: float) -> str:
    """A length that is forecast: two figures."""
    return f"{figure(u.value(cm, 'length'), 2)}{NBSP}{u.unit('length')}"


_EATEN = {"shrimp": "shrimp", "snail": "snail", "crab": "crab"}


def _eats_invertebrates(eater: Member, prey: Member, c: Case) -> Iterator[Finding]:
    words = eater.kind.eats_invertebrates
    what = _EATEN.get(prey.kind.group, "")
    if not words or not what or what not in words or eater.kind.key == prey.kind.key:
        return
    some = "young" in words or "small" in words or "now and then" in words
    text = f"{_name(eater.kind)} eat {words}: {plural(prey.kind.name, 2)} are that."
    yield _two(
        "invertebrates", "watch" if some else "apart", "practice", eater, prey, text, "dense cover, or another tank"
    )


def _eats_corals(eater: Member, coral: Member, c: Case) -> Iterator[Finding]:
    if coral.kind.group not in ("coral", "anemone") or eater.kind.group in ("coral", "anemone"):
        return
    if eater.kind.reef == "no":
        text = f"{_name(eater.kind)} do not go with corals: {eater.kind.eats_corals or eater.kind.feeding}."
        yield _two("corals", "apart", "practice", eater, coral, text, "a tank without corals")
    elif eater.kind.reef == "caution":
        text = f"{_name(eater.kind)} may pick at {plural(coral.kind.name, 2)}"
        more = f" ({eater.kind.eats_corals})" if eater.kind.eats_corals else ""
        yield _two("corals", "watch", "practice", eater, coral, f"{text}{more}.", "watching, and a way to take it out")


def _nips(nipper: Member, other: Member, c: Case) -> Iterator[Finding]:
    if nipper.kind.nips_fins == "no" or not other.kind.long_fins or nipper.kind.key == other.kind.key:
        return
    mild = nipper.kind.nips_fins == "mild"
    text = (
        f"{_name(nipper.kind)} {'may nip' if mild else 'nip'} fins, and {plural(other.kind.name, 2)} carry long ones."
    )
    yield _two("nips", "watch" if mild else "apart", "practice", nipper, other, text, "another tank for one")


def _bullies(bully: Member, other: Member, c: Case) -> Iterator[Finding]:
    """An aggressive fish with a peaceful one that is not much larger; a territorial one where both hold one zone."""
    if other.kind.group != "fish" or bully.kind.key == other.kind.key:
        return
    if bully.kind.group in ("shrimp", "crab") and bully.kind.temperament == "aggressive":
        text = f"{_name(bully.kind)} catch or strike fish that rest near them: {plural(other.kind.name, 2)} too."
        yield _two("claws", "apart", "safety", bully, other, text, "a tank of its own")
        return
    if bully.kind.group != "fish":
        return
    same_zone = bully.kind.zone == other.kind.zone
    holds = bully.kind.temperament == "aggressive" or (bully.kind.territory == "strong" and same_zone)
    if holds and other.kind.long_fins and other.kind.temperament != "aggressive":
        text = f"{_name(bully.kind)} hold their ground, and the long fins of {plural(other.kind.name, 2)} draw attacks."
        yield _two("fins", "apart", "practice", bully, other, text, "another tank for one")
        return
    cramped = c.home.litres < 0.95 * c.home.least_litres(bully.kind)  # nowhere to get away to
    if bully.kind.temperament == "aggressive" and other.kind.temperament in ("peaceful", "active"):
        text = f"{_name(bully.kind)} are aggressive, {plural(other.kind.name, 2)} peaceful."
        share = other.kind.adult_cm / bully.kind.adult_cm
        near = (same_zone or cramped) and not (share >= AS_LARGE and other.kind.swims == "active")
        severity = "apart" if share <= SMALL_BESIDE or near else "watch"
        yield _two("bully", severity, "practice", bully, other, text, "another tank for one")
    elif bully.kind.temperament == "aggressive" and other.kind.temperament in ("semi-peaceful", "territorial"):
        small = other.kind.adult_cm <= STILL_SMALLER * bully.kind.adult_cm
        text = f"{_name(bully.kind)} are aggressive, and {plural(other.kind.name, 2)} do not give way."
        severity = "apart" if small or cramped else "watch"
        yield _two("bully", severity, "practice", bully, other, text, "another tank for one")
    elif bully.kind.territory == "strong" and same_zone and other.kind.temperament == "peaceful":
        text = f"{_name(bully.kind)} hold the {_ground(bully.kind)}, where {plural(other.kind.name, 2)} live too."
        yield _two("holds", "watch", "practice", bully, other, text, "cover, and the territorial one last")


def _outcompeted(slow: Member, fast: Member, c: Case) -> Iterator[Finding]:
    if slow.kind.key == fast.kind.key:
        return
    picks = slow.kind.refusal == "high" and slow.kind.flow == "still" and slow.kind.zone != "top"
    if picks and fast.kind.group == "fish" and fast.kind.refusal != "high" and fast.kind.swims != "sedentary":
        text = f"{_name(slow.kind)} pick slowly and starve beside {plural(fast.kind.name, 2)}."
        yield _two("food", "apart", "practice", slow, fast, text, "only their like, and calm company")
    elif slow.kind.refusal == "high" and slow.kind.moves and fast.kind.swims == "active" and fast.kind.group == "fish":
        text = f"{_name(slow.kind)} eat slowly, {plural(fast.kind.name, 2)} are quick at the food."
        yield _two("food", "watch", "taste", slow, fast, text, "feeding them apart, after lights out")


ONE_WAY: tuple[Callable[[Member, Member, Case], Iterator[Finding]], ...] = (
    _swallows, _eats_invertebrates, _eats_corals, _nips, _bullies, _outcompeted,
)  # fmt: skip


# --- the matrix --------------------------------------------------------------------------------------


def worst(found: Sequence[Finding]) -> str:
    """apart, watch, note, or at ease when nothing is found."""
    return next((s for s in SEVERITIES if any(f.severity == s for f in found)), "at ease")


def between(found: Sequence[Finding], a: str, b: str) -> tuple[Finding, ...]:
    return tuple(f for f in found if set(f.species) == {a, b} and len(f.species) == 2)


def of_one(found: Sequence[Finding], key: str) -> tuple[Finding, ...]:
    return tuple(f for f in found if f.species == (key,))
