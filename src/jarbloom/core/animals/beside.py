"""One animal against another: PAIRS are rules that look at both at once, ONE_WAY those that are asked each way."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from jarbloom.core.animals.company import Case, Finding, Member, ground, many, told_two
from jarbloom.core.animals.names import plural
from jarbloom.core.animals.swallowing import eats_fish
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, figure

COLD_TO_C, TROPICAL_FROM_C = 24.0, 20.0  # the upper end of a cold-water animal's range, the lower of a tropical one's
LEAST_SHARED_C = 2.0  # a range that no heater and no summer leaves (judgement)
LEAST_SHARED_PH = 0.2  # what the water moves by between morning and evening (judgement)
# Of a bully's adult length: it is killed, it loses every fight, it holds its own (judgement)
SMALL_BESIDE, STILL_SMALLER, AS_LARGE = 0.4, 0.5, 0.9
ALONE_BEST = "one male alone"  # what a row says of its sexes
CROWDED = 2.0  # two strong holders of one zone want this many of their minimum volumes


def _window(a: Member, b: Member, c: Case) -> Iterator[Finding]:
    """The water that both live in must exist."""
    for low, high, what, unit in (
        ("salt_low", "salt_high", "salinity", "g/kg"), ("temp_low", "temp_high", "temperature", ""),
        ("ph_low", "ph_high", "pH", ""),
    ):  # fmt: skip
        floor = max(getattr(a.kind, low), getattr(b.kind, low))
        ceiling = min(getattr(a.kind, high), getattr(b.kind, high))
        if floor > ceiling:
            text = f"{many(a.kind)} and {plural(b.kind.name, 2)} share no {what}: {_span(a.kind, low, high, what, c)}"
            text += f" against {_span(b.kind, low, high, what, c)}{f'{NBSP}{unit}' if unit else ''}."
            yield told_two(
                "window", "apart", "safety" if what != "pH" else "practice", a, b, text, "another tank for one"
            )
            return
        cold = [k for k in (a.kind, b.kind) if k.temp_high <= COLD_TO_C]
        if what == "temperature" and len(cold) == 1 and floor >= TROPICAL_FROM_C:
            warm = b.kind if cold[0] is a.kind else a.kind
            text = f"{many(cold[0])} are cold-water animals, {plural(warm.name, 2)} tropical: one of them suffers."
            yield told_two("window", "apart", "practice", a, b, text, "another tank for one")
        elif what == "temperature" and ceiling - floor < LEAST_SHARED_C:
            share = f"{c.units.temp(floor)} to {c.units.temp(ceiling)}"
            text = f"{many(a.kind)} and {plural(b.kind.name, 2)} share only {share}."
            yield told_two("window", "watch", "practice", a, b, text, "a heater and a thermometer that hold it")
        elif what == "pH" and ceiling - floor < LEAST_SHARED_PH:
            text = f"{many(a.kind)} and {plural(b.kind.name, 2)} share hardly any pH: about {figure(floor)}."
            yield told_two("window", "watch", "practice", a, b, text, "another tank for one, or water held just there")


def _span(kind: Species, low: str, high: str, what: str, c: Case) -> str:
    first, last = getattr(kind, low), getattr(kind, high)
    if what == "temperature":
        return f"{c.units.temp(first)} to {c.units.temp(last)}"
    return f"{figure(first)} to {figure(last)}"


def _rivals(a: Member, b: Member, c: Case) -> Iterator[Finding]:
    """Kin and look-alikes, and two that hold the same ground."""
    if a.kind.alike and a.kind.alike == b.kind.alike and "none" not in (a.kind.territory, b.kind.territory):
        strong = "strong" in (a.kind.territory, b.kind.territory)
        text = f"{many(a.kind)} and {plural(b.kind.name, 2)} are alike, and take each other for rivals."
        yield told_two(
            "alike", "apart" if strong else "watch", "practice", a, b, text, "one of the two, or a far larger tank"
        )
        return
    fight = a.kind.temperament == b.kind.temperament == "aggressive" and a.kind.group == b.kind.group == "fish"
    if (a.kind.zone == b.kind.zone or fight) and a.kind.territory == b.kind.territory == "strong":
        wants = CROWDED * max(c.home.least_litres(a.kind), c.home.least_litres(b.kind))
        if c.home.litres < wants:
            text = (
                f"{many(a.kind)} and {plural(b.kind.name, 2)} both hold the {ground(a.kind)}; "
                f"that takes about {c.units.volume(wants)}."
            )
            severity = "apart" if fight else "watch"
            yield told_two("ground", severity, "practice", a, b, text, "caves apart, the stronger one last")


def _land(a: Member, b: Member, c: Case) -> Iterator[Finding]:
    """Who needs land and shallow water, and who needs a full tank."""
    if (a.kind.zone == "land") != (b.kind.zone == "land"):
        dry, wet = (a, b) if a.kind.zone == "land" else (b, a)
        text = f"{many(dry.kind)} need land with a little water, {plural(wet.kind.name, 2)} a full tank."
        yield told_two("land", "apart", "safety", dry, wet, text, "a tank of its own for each")


# Rift cichlids by the lake they come from: like water, unlike tempers and food; keepers settle on one lake a tank
LAKES = {
    "Malawi": "Labidochromis Maylandia Chindongo Aulonocara Pseudotropheus Melanochromis Iodotropheus Sciaenochromis",
    "Tanganyika": "Neolamprologus Julidochromis Cyphotilapia Tropheus Altolamprologus",
}


_LAKE_OF = {genus: lake for lake, genera in LAKES.items() for genus in genera.split()}


def _lakes(a: Member, b: Member, c: Case) -> Iterator[Finding]:
    """Two lakes in one tank: where one of the two is a fighter, the other pays for it."""
    lakes = _LAKE_OF.get(a.kind.genus), _LAKE_OF.get(b.kind.genus)
    if None in lakes or lakes[0] == lakes[1]:
        return
    fighter = any(k.temperament == "aggressive" or k.territory == "strong" for k in (a.kind, b.kind))
    text = (
        f"{many(a.kind)} come from Lake {lakes[0]}, {plural(b.kind.name, 2)} from Lake {lakes[1]}: "
        "their tempers and food differ."
    )
    yield told_two("lakes", "apart" if fighter else "watch", "practice", a, b, text, "one lake a tank")


PAIRS: tuple[Callable[[Member, Member, Case], Iterator[Finding]], ...] = (_window, _land, _rivals, _lakes)

# How far a coral's sweepers reach by night, cm, by genus (practice); kin of the first group bear each other
_KIN = ("Euphyllia", "Fimbriaphyllia")
SWEEPS_CM = {"Euphyllia": 15, "Fimbriaphyllia": 15, "Plerogyra": 15, "Galaxea": 25, "Goniopora": 10, "Micromussa": 8}


def _stings(stinger: Member, other: Member, c: Case) -> Iterator[Finding]:
    """Corals and anemones that reach their neighbours."""
    if other.kind.moves:
        return
    genus = stinger.kind.genus
    if stinger.kind.group == "anemone" and other.kind.group != "anemone":
        text = f"{many(stinger.kind)} wander, and sting the {plural(other.kind.name, 2)} that they touch."
        yield told_two("sting", "watch", "practice", stinger, other, text, "a rock of its own, away from corals")
    elif genus in SWEEPS_CM and not (genus in _KIN and other.kind.genus in _KIN):
        reach = c.units.length(SWEEPS_CM[genus])
        text = f"{many(stinger.kind)} sting what stands within {reach} by night, {plural(other.kind.name, 2)} too."
        yield told_two("sting", "watch", "practice", stinger, other, text, f"{reach} between them, downstream too")


_EATEN = {"shrimp": "shrimp", "snail": "snail", "crab": "crab"}  # the word by the group
_TUBE_WORMS = ("Sabellastarte",)  # genera that stand among the corals of the catalogue; who digs for worms is no danger
_EATEN_OTHERS = {"star": "sea stars", "shell": "urchins"}  # and by the body of those that are of none


def _eats_invertebrates(eater: Member, prey: Member, c: Case) -> Iterator[Finding]:
    words = eater.kind.eats_invertebrates
    what = _EATEN_OTHERS.get(prey.kind.body, "") if prey.kind.group == "other" else _EATEN.get(prey.kind.group, "")
    if prey.kind.genus in _TUBE_WORMS and eater.kind.moves and eater.kind.group != "other":
        what = "worms"
    if not words or not what or what not in words or eater.kind.key == prey.kind.key:
        return
    some = "young" in words or "small" in words or "now and then" in words
    text = f"{many(eater.kind)} eat {words}: {plural(prey.kind.name, 2)} are that."
    yield told_two(
        "invertebrates", "watch" if some else "apart", "practice", eater, prey, text, "dense cover, or another tank"
    )


def _eats_corals(eater: Member, coral: Member, c: Case) -> Iterator[Finding]:
    if coral.kind.group not in ("coral", "anemone") or eater.kind.group in ("coral", "anemone"):
        return
    if eater.kind.reef == "no":
        text = f"{many(eater.kind)} do not go with corals: {eater.kind.eats_corals or eater.kind.feeding}."
        yield told_two("corals", "apart", "practice", eater, coral, text, "a tank without corals")
    elif eater.kind.reef == "caution":
        text = f"{many(eater.kind)} may pick at {plural(coral.kind.name, 2)}"
        more = f" ({eater.kind.eats_corals})" if eater.kind.eats_corals else ""
        yield told_two(
            "corals", "watch", "practice", eater, coral, f"{text}{more}.", "watching, and a way to take it out"
        )


def _nips(nipper: Member, other: Member, c: Case) -> Iterator[Finding]:
    if nipper.kind.nips_fins == "no" or not other.kind.long_fins or nipper.kind.key == other.kind.key:
        return
    mild = nipper.kind.nips_fins == "mild"
    text = f"{many(nipper.kind)} {'may nip' if mild else 'nip'} fins, and {plural(other.kind.name, 2)} carry long ones."
    yield told_two("nips", "watch" if mild else "apart", "practice", nipper, other, text, "another tank for one")


def _best_alone(fighter: Member, other: Member, c: Case) -> Iterator[Finding]:
    """A fighter with trailing fins that is kept alone: some bear quick company about them, some never do."""
    k = fighter.kind
    if k.sex_ratio != ALONE_BEST or other.kind.group != "fish" or other.kind.key == k.key:
        return
    if other.kind.swims != "sedentary" and other.kind.zone in ("middle", "top", "open"):
        text = f"Some {plural(k.name, 2)} hunt {plural(other.kind.name, 2)} or are worn out by them, others never mind."
        yield told_two("company", "watch", "practice", fighter, other, text, "cover, and a second tank ready")


def _bullies(bully: Member, other: Member, c: Case) -> Iterator[Finding]:
    """An aggressive fish with a peaceful one that is not much larger; a territorial one where both hold one zone."""
    if other.kind.group != "fish" or bully.kind.key == other.kind.key:
        return
    if bully.kind.group in ("shrimp", "crab") and bully.kind.temperament == "aggressive":
        text = f"{many(bully.kind)} catch or strike fish that rest near them: {plural(other.kind.name, 2)} too."
        yield told_two("claws", "apart", "safety", bully, other, text, "a tank of its own")
        return
    if bully.kind.group != "fish":
        return
    same_zone = bully.kind.zone == other.kind.zone
    holds = bully.kind.temperament == "aggressive" or (bully.kind.territory == "strong" and same_zone)
    if holds and other.kind.long_fins and other.kind.temperament != "aggressive":
        text = f"{many(bully.kind)} hold their ground, and the long fins of {plural(other.kind.name, 2)} draw attacks."
        yield told_two("fins", "apart", "practice", bully, other, text, "another tank for one")
        return
    cramped = c.home.litres < 0.95 * c.home.least_litres(bully.kind)  # nowhere to get away to
    if bully.kind.temperament == "aggressive" and other.kind.temperament in ("peaceful", "active"):
        text = f"{many(bully.kind)} are aggressive, {plural(other.kind.name, 2)} peaceful."
        share = other.kind.adult_cm / bully.kind.adult_cm
        quick = share >= AS_LARGE and other.kind.swims == "active" and bully.kind.nips_fins != "yes"
        near = (same_zone or cramped) and not quick
        severity = "apart" if share <= SMALL_BESIDE or near else "watch"
        yield told_two("bully", severity, "practice", bully, other, text, "another tank for one")
    elif bully.kind.temperament == "aggressive" and other.kind.temperament in ("semi-peaceful", "territorial"):
        small = other.kind.adult_cm <= STILL_SMALLER * bully.kind.adult_cm
        text = f"{many(bully.kind)} are aggressive, and {plural(other.kind.name, 2)} do not give way."
        severity = "apart" if small or cramped else "watch"
        yield told_two("bully", severity, "practice", bully, other, text, "another tank for one")
    elif bully.kind.territory == "strong" and same_zone and other.kind.temperament == "peaceful":
        text = f"{many(bully.kind)} hold the {ground(bully.kind)}, where {plural(other.kind.name, 2)} live too."
        yield told_two("holds", "watch", "practice", bully, other, text, "cover, and the territorial one last")


def _outcompeted(slow: Member, fast: Member, c: Case) -> Iterator[Finding]:
    if slow.kind.key == fast.kind.key:
        return
    picks = slow.kind.refusal == "high" and slow.kind.flow == "still" and slow.kind.zone != "top"
    if picks and fast.kind.group == "fish" and fast.kind.refusal != "high" and fast.kind.swims != "sedentary":
        text = f"{many(slow.kind)} pick slowly and starve beside {plural(fast.kind.name, 2)}."
        yield told_two("food", "apart", "practice", slow, fast, text, "only their like, and calm company")
    elif slow.kind.refusal == "high" and slow.kind.moves and fast.kind.swims == "active" and fast.kind.group == "fish":
        text = f"{many(slow.kind)} eat slowly, {plural(fast.kind.name, 2)} are quick at the food."
        yield told_two("food", "watch", "taste", slow, fast, text, "feeding them apart, after lights out")


ONE_WAY: tuple[Callable[[Member, Member, Case], Iterator[Finding]], ...] = (
    _stings,
    eats_fish, _eats_invertebrates, _eats_corals, _nips, _best_alone, _bullies, _outcompeted,
)  # fmt: skip
