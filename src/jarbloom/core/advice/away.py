"""While the keeper is away: what whoever looks after the tank does on which day, and what is done before leaving."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.advice.food import Ration, ration
from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.names import animal_name, plural
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.medicine import Medicine
from jarbloom.core.model.findings import Feeding
from jarbloom.core.setup.equipment import evaporated_l_day
from jarbloom.errors import Refused
from jarbloom.units import NBSP, figure, food_text, load_text

LONGEST_DAYS = 60
FASTING_DAYS = 4  # grown healthy animals bear so many without food; a helper's first mistake is too much (practice)
PORTION = 0.6  # of the usual ration: what is left over fouls the water while nobody sees it (judgement)
G_PER_TEASPOON = 2.5  # of small dry granules, level; flakes weigh less (judgement, weigh it once)
NEWCOMERS = timedelta(days=14)  # who came so lately is not yet known to eat and to live
TOO_FAR_C = 4.0  # from its usual warmth: somebody has to do something
TOPPED_FROM = 0.02  # of the water: so much evaporated is topped up
WITHIN_RHYTHM = 1.2  # a change may be so much later than the usual pause before it is brought forward


@dataclass(frozen=True)
class Absence:
    """`first` and `last`: days on which the keeper is not there. `every`: food on each so many days, 0 none at all."""

    first: date
    last: date
    every: int = 1
    grams: float | None = None  # a portion; None: worked out
    contact: str = ""
    normal: str = ""
    extra: str = ""

    @property
    def days(self) -> int:
        return (self.last - self.first).days + 1


def check(a: Absence, today: date) -> None:
    """Raises Refused naming the field."""
    if a.last < a.first:
        raise Refused("The last day lies before the first.", "last")
    if a.last < today:
        raise Refused("These days are over already.", "last")
    if a.days > LONGEST_DAYS:
        raise Refused(
            f"{a.days} days: a sheet is made for {LONGEST_DAYS} at most; somebody has to know the tank then.", "last"
        )


@dataclass(frozen=True)
class Day:
    """`portion`: grams of food, 0 on days without; `topoff_l`: fresh water to add, 0 on most days."""

    day: date
    portion: float
    topoff_l: float


@dataclass(frozen=True)
class Sheet:
    """`before`: what the keeper does before leaving, each with its reason; `normal`: what a helper should see."""

    absence: Absence
    days: tuple[Day, ...]
    portion: float
    measure: str
    before: tuple[tuple[str, str], ...]
    normal: tuple[str, ...]
    never: tuple[str, ...]
    troubles: tuple[tuple[str, str], ...]
    rests_on: str


def sheet(s: Situation, a: Absence) -> Sheet:
    """What is set down for these days, by what is known today."""
    usual, today = s.upkeep.feed_g, ration(s)
    portion = _portion(a, usual, today)
    lost = evaporated_l_day(s.tank, s.entries)
    return Sheet(
        absence=a,
        days=tuple(_days(a, portion, lost, s.volume_l)),
        portion=portion,
        measure=measure(portion),
        before=tuple(_before(s, a, lost, portion, usual)),
        normal=tuple(_normal(s, a)),
        never=NEVER,
        troubles=_troubles(s),
        rests_on=(
            f"{_food_words(a, portion, usual, today)} About {figure(lost, 2)}{NBSP}L a day evaporate, "
            "by your own top-offs where there are enough, else estimated."
        ),
    )


def _portion(a: Absence, usual: float, today: Ration) -> float:
    """Grams of a packet: the keeper's own, else a share of the usual ration. Where less than usual is fed today, no
    packet holds more than that: whatever holds food back holds it back from the helper too."""
    grams = PORTION * usual if a.grams is None else a.grams
    if today.level < Feeding.USUAL:
        grams = min(grams, today.grams)
    return round(grams, 2) if grams < 1 else round(grams, 1)


def _food_words(a: Absence, portion: float, usual: float, today: Ration) -> str:
    """What the portion rests on."""
    if today.level < Feeding.USUAL:
        told = "no packet holds more" if portion else "no food is set down"
        return f"{today.words} {today.why} So {told} until that is over; the sheet is reckoned anew with every entry."
    own = "The portion is your own" if a.grams is not None else f"The portion is {PORTION:.0%} of the usual ration"
    return f"{own}; {food_text(usual)} a day is usual for who lives here, a rule of thumb."


def measure(grams: float) -> str:
    """A portion in a measure that can be pictured.

    >>> measure(0.3), measure(1.25), measure(5.2)
    ('about an eighth of a level teaspoon', 'about half a level teaspoon', 'about 2 level teaspoons')
    """
    spoons = grams / G_PER_TEASPOON
    if spoons < 0.04:
        return "a small pinch, as much as sticks to a dry fingertip"
    parts = {0.125: "an eighth of a level teaspoon", 0.25: "a quarter of a level teaspoon",
             0.5: "half a level teaspoon", 1.0: "a level teaspoon"}  # fmt: skip
    if spoons < 1.5:
        nearest = min(parts, key=lambda p: abs(math.log(p / spoons)))
        return f"about {parts[nearest]}"
    return f"about {spoons:.0f} level teaspoons"


def _days(a: Absence, portion: float, lost_l_day: float, volume_l: float) -> Iterator[Day]:
    """Food on each so many days, beginning with the second where it is not daily: they were fed on leaving. Water when
    a fiftieth of it has gone."""
    gone = 0.0
    for k in range(a.days):
        gone += lost_l_day
        fed = a.every > 0 and (k + 1) % a.every == 0
        top = round(gone, 1) if gone >= TOPPED_FROM * volume_l else 0.0
        gone = 0.0 if top else gone
        yield Day(a.first + timedelta(days=k), portion if fed else 0.0, top)


def _before(s: Situation, a: Absence, lost: float, portion: float, usual: float) -> Iterator[tuple[str, str]]:
    """The gravest first."""
    yield from _not_now(s, a)
    if not _wrong_now(s):  # else the upset desk says how much, and when
        yield from _change(s, a)
    if lost * a.days >= TOPPED_FROM * s.volume_l:
        sea = bool(s.tank.salinity_g_kg)
        what = "fresh water, marked as such," if sea else "conditioned tap water"
        why = (
            "Water evaporates and its salt does not: never salt water." if sea else "So much evaporates in these days."
        )
        yield f"Put {s.units.volume(round(lost * a.days, 1))} of {what} beside the tank.", why
    if portion and a.every:
        yield from _food(a, portion, usual)
    yield "Clean nothing on the last day; the filter a week before.", "What was touched last fails while nobody looks."
    yield "Show the plugs, the drip loops and the towels.", "Water and mains: hands go in only with the plug out."


def _wrong_now(s: Situation) -> bool:
    return s.response is not None or s.findings.has("ammonia_over", "nitrite_over", "upset_open")


def _not_now(s: Situation, a: Absence) -> Iterator[tuple[str, str]]:
    """What speaks against leaving, or against leaving it like this."""
    if _wrong_now(s):
        yield (
            "Do not leave it like this.",
            "Something is wrong now, see the upset desk: a helper cannot see it through.",
        )
    late = [e for e in s.entries.kinds(Arrival) if not e.body.already_in and s.now - e.at < NEWCOMERS]
    if late:
        who = animal_name(late[-1].body.species, s.reference.species)
        yield "Look twice at the newcomers.", f"{who} came on {late[-1].at:%-d %b}: whether they eat is not yet known."
    if s.waiting and s.waiting[0].planned <= a.last:
        batch = s.waiting[0]
        yield "No new animals before you leave.", f"{batch.name} is planned for {batch.planned:%-d %b}: move it."
    if any(e.body.days and e.day + timedelta(days=e.body.days) > a.first for e in s.entries.kinds(Medicine)):
        yield "A course of medicine runs on.", "Ask the vet or fish-health professional how; no helper doses by guess."
    if s.living and s.forecast.sure < s.forecast.load_adult:
        carried, load = load_text(s.forecast.sure), load_text(s.forecast.load_adult)
        why = f"It surely carries {carried} a day, they put out {load} grown up: less food, and tests by the helper."
        yield "The bloom is not sure of the whole load.", why


def _food(a: Absence, portion: float, usual: float) -> Iterator[tuple[str, str]]:
    if a.days <= FASTING_DAYS:
        why = (
            "Grown, healthy animals bear these days (practice), and too much food is what goes wrong most. Fry do not."
        )
        yield "Think of leaving them without food.", why
    n = sum((k + 1) % a.every == 0 for k in range(a.days))
    packed = f"Pack {n} portion{'s' if n != 1 else ''} of {food_text(portion)}."
    yield packed, "One a packet, the rest of the food put away: nobody has to guess."
    if portion > 1.5 * usual > 0:
        yield "That portion is large.", f"The usual ration of all of them is {food_text(usual)} a day."


def _change(s: Situation, a: Absence) -> Iterator[tuple[str, str]]:
    """The next usual change, by the pauses between the last ones, and where it falls into the absence."""
    changes = [e.day for e in s.entries.kinds(Change)[-7:]]
    if len(changes) < 3 or not s.living:
        return
    pauses = sorted((b - a_).days for a_, b in zip(changes, changes[1:], strict=False))
    usual = pauses[len(pauses) // 2]
    due = changes[-1] + timedelta(days=usual)
    back = a.last + timedelta(days=1)
    if usual and due <= a.last and (back - changes[-1]).days > WITHIN_RHYTHM * usual:
        litres, eve = s.entries.kinds(Change)[-1].body.litres, max(a.first - timedelta(days=1), s.now.date())
        yield (
            f"Change {s.units.volume(litres)} on {eve:%a %-d %b}, the next after {back:%-d %b}.",
            f"You change every {usual} days, which would be {due:%-d %b}; a helper should not begin with it.",
        )


def heads(s: Situation) -> Iterator[str]:
    """Who lives there, one line a kind."""
    counts: dict[str, int] = {}
    for animals in s.living:
        counts[animals.species] = counts.get(animals.species, 0) + animals.count
    for species, n in counts.items():
        yield f"{n} {plural(animal_name(species, s.reference.species).lower(), n)}"


def _normal(s: Situation, a: Absence) -> Iterator[str]:
    yield from heads(s)
    yield f"Water at {s.units.temp(s.tank.temp_c)}, within {s.units.temp_step(1.5)}; clear, with no smell."
    if s.tank.filters:
        yield "The filter runs: the surface moves."
    for line in a.normal.splitlines():
        if line.strip():
            yield line.strip()


NEVER = (
    "Never more food than the packet holds, also when they beg.",
    "Never clean the filter, change water or move anything, unless it says so here.",
    "Never any medicine, plant food or bottle that is not named here.",
    "Never hands in the water with anything plugged in; never hot or cold water in a rush.",
)


def _troubles(s: Situation) -> tuple[tuple[str, str], ...]:
    """What a helper may meet, and what is done first, whatever the cause."""
    warm, cold = (s.units.temp(s.tank.temp_c + by) for by in (TOO_FAR_C, -TOO_FAR_C))
    found = [
        (
            "They gasp at the surface",
            "Call. Meanwhile lift a jug of tank water and pour it back from a hand above, for ten minutes. No food.",
        ),
        ("The filter is silent", "Look for the plug, the switch, the fuse. Silent for an hour: call."),
        (f"Warmer than {warm}, or colder than {cold}", "Too warm: unplug the heater. Call. No ice, no hot water."),
        ("Water on the floor", "Plugs out with dry hands, at the fuse where sockets are wet. Towels. Call at once."),
        (
            "One lies dead",
            "Out with the net, into a closed bag in the bin; wash your hands. No food for a day. Call that day.",
        ),
        ("The water is milky or smells", "No food. Call."),
    ]
    if s.tank.marine:
        found.append(
            ("Anything that looks odd", "Send a photo and touch nothing: some animals sting, some are poisonous.")
        )
    return tuple(found)
