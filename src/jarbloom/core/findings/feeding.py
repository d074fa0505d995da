"""More food than they can eat, and food that lies."""

from __future__ import annotations

from collections.abc import Iterable

from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.model.findings import Feeding, Severity
from jarbloom.units import figure, food_text

TOO_MUCH, FAR_TOO_MUCH = 3.0, 6.0  # times a usual ration within a day (judgement; a ration is good to a factor of two)
LEAST_G = 0.15  # below this a weighing error is larger than the difference


@rule("overfed")
def overfed(facts: Facts) -> Iterable[Found]:
    if not facts.alive:
        return
    said, left = facts.said("overfed", hours=24 * 14), facts.said("foodleft", hours=48)
    block = [h for h in said if "block" in h.text.lower()]
    going_on = [h for h in said if "times a day" in h.text.lower() and _trace(facts)]
    recent = [
        h for h in said
        if h.at >= facts.since(48) or (h in block and facts.said("milky", "smell", hours=48)) or h in going_on
    ]  # fmt: skip
    usual = facts.upkeep_as_set.feed_g
    fed = [e for e in facts.lately(72, Feed) if e.body.grams]
    by_day: dict[object, float] = {}
    for e in fed:
        by_day[e.day] = by_day.get(e.day, 0.0) + (e.body.grams or 0.0)
    told = [h for h in facts.said_numbers(72) for n in h.numbers if n.quantity == "food"]
    for heard in told:
        grams = sum(n.value for n in heard.numbers if n.quantity == "food")
        by_day[heard.entry.day] = max(by_day.get(heard.entry.day, 0.0), grams)
    most = max(by_day.values(), default=0.0)
    far = most > max(FAR_TOO_MUCH * usual, LEAST_G) or (most > max(TOO_MUCH * usual, LEAST_G) and bool(left))
    young = bool(facts.lately(24 * 42, Birth) or facts.said("fry"))
    bit = facts.said("overfed_a_bit", hours=48)
    if bit and not recent:
        shows = len(bit) > 1 or bool(left) or _trace(facts) or bool(facts.said("milky", "smell", hours=48))
        recent = list(bit) if shows else []
    if recent:
        last = recent[-1]
        later = facts.said("milky", hours=48)
        at = facts.now if last in going_on else (max(last.at, later[-1].at) if last in block and later else last.at)
        yield Found(
            "Overfed, by your words: what is not eaten is ammonia tomorrow and takes oxygen tonight.",
            at, ids(recent), acts=("siphon", "air"), share=0.25 if _trace(facts) else 0.0,
            feeding=Feeding.PINCH if young else None,
        )  # fmt: skip
    elif far or most > max(TOO_MUCH * usual, LEAST_G):
        ratio = most / usual if usual else 0.0
        yield Found(
            f"Up to {food_text(most)} of food on one day, about {figure(ratio, 2)} times a usual ration of "
            f"{food_text(usual)}: overfed.",
            max([e.at for e in fed] + [h.at for h in told]), (*ids(fed), *ids(told), *ids(left)),
            None if far else Severity.WATCH,
            acts=None if far else (), feeding=None if far else Feeding.HALF,
            share=0.25 if far and _trace(facts) else 0.0,
        )  # fmt: skip
    elif bit:
        yield Found(
            "More food than usual, by your words: once is borne, what they leave is not.",
            bit[-1].at, ids(bit), Severity.WATCH, acts=(), tests=(), share=0.0, feeding=Feeding.HALF,
        )  # fmt: skip


def _trace(facts: Facts) -> bool:
    return any(
        c.reading is not None and c.reading.reading.low > 0 and c.reading.at >= facts.since(48)
        for c in facts.credible.values()
    ) or any(v.seen >= 0.2 for v in facts.values("ammonia", 48))


@rule("food_left")
def food_left(facts: Facts) -> Iterable[Found]:
    said = facts.said("foodleft", hours=24)
    if said and facts.alive:
        yield Found("Food lies uneaten, by your words: take it out, and give half as much.", said[-1].at, ids(said))
