"""Animals that died, came, were given away, counted or born."""

from __future__ import annotations

import re

from jarbloom.core.journal.spoken.creatures import BRED, LENGTH, SHOP
from jarbloom.core.journal.spoken.frames.frame import PASSIVE, Frame, Parts
from jarbloom.core.journal.spoken.frames.water import HOUSE
from jarbloom.core.journal.spoken.readings import Said

_N = r"(?:a|the) (?:second|third|fourth)(?! of)|(?:about |around |roughly |some |at least )?\d{1,3}|a|an|another"
_HEADS = rf"(?:{_N})(?: more)?(?: of)?(?: (?:the|my|our))?"
_LOOKS = (
    r"(?:(?:more|new|old|oldest|biggest|smallest|youngest|big|small|little|female|male|pregnant|young|adult|last|first|"
    r"favourite|poor|beautiful|healthy|remaining|other) ?)+"
)
_IN_TANK = r"(?:in|into|to) (?:(?:the|my|our) )?(?:tank|aquarium)"
_LYING = (
    r"(?:(?:in|behind|under|on|at|between|among|next to|inside) (?:(?:the|my|our) )?(?:tank|aquarium|filter|"
    r"(?:filter )?intake|"
    r"floor|carpet|sand|gravel|bottom|wood|rocks?|plants?|moss|back|front|surface|corner|heater|pump|cave|glass|lid|morning)"
    r"(?: of the tank)?|overnight|(?:in )?the night|in (?:1|a) (?:night|day)|last night|stuck to the (?:filter|intake))"
)


def _count(told: Parts) -> str | None:
    """The heads as a figure; None where they are not said, or said twice."""
    behind = re.search(r"\d+", told.get("behind", ""))
    order = list(told)
    if "n" in told and (behind or order.index("n") > order.index("who")):
        return None
    if "n" not in told:
        return behind[0] if behind else None
    figure = re.search(r"\d+", told["n"])
    return figure[0] if figure else "1"


def _one_or(told: Parts) -> str | None:
    """The same; a single one where the name is in the singular ('the oldest guppy died')."""
    if "n" in told or "behind" in told:
        return _count(told)
    return "1" if not _is_plural(told["who"]) else None


def _is_plural(name: str) -> bool:
    return name.endswith("s") and not name.endswith(("ss", "us"))


def _plural_agrees(told: Parts, count: str | None) -> bool:
    """'a guppies' is a slip; 'another one of the guppies' is none."""
    return count != "1" or not _is_plural(told["who"]) or " of" in told.get("n", "") or "1" in told.get("n", "")


_CAUSES = (("jump", "jumped"), ("molt", "moulting"), ("moult", "moulting"), ("age", "oldage"), ("dropsy", "dropsy"))


def _died(told: Parts) -> Said:
    if "who" not in told or not ({"gone", "dead", "lost", "death"} & set(told)):
        return None
    if "gone" in told and ("lost" in told or "death" in told):
        return None
    order = list(told)
    if not {"gone", "lost", "death", "found", "n"} & set(told) and order.index("dead") < order.index("who"):
        return None  # 'the dead guppy was a rasbora'
    count = _one_or(told)
    if count is None or not _plural_agrees(told, count):
        return None
    cause = next((f" {word}" for sign, word in _CAUSES if sign in told.get("cause", "")), "")
    return f"dead {count} {told['who']}{' found' if 'found' in told else ''}{cause}"


DIED = Frame(
    r"die?d|dead|lost|passed|perished|death|deaths|lifeless|deceased|did not survive|didn't survive|rip",
    _died,
    {
        "n": _HEADS,
        "looks": _LOOKS,
        "dead": r"dead|lifeless|deceased",
        "gone": r"(?:died|passed away|passed on|passed|perished|(?:did not|didn't) survive)(?: too)?",
        "lost": r"lost|rip",
        "death": r"deaths?(?: of)?:?",
        "found": r"found|spotted|discovered|pulled out|pulled|took out|took|removed|fished out|netted out|scooped out|"
        r"there (?:is|was|were|are)",
        "out": r"(?:out )?(?:of|from) (?:the|my) (?:tank|filter|aquarium)|out",
        "where": _LYING,
        "behind": r"[:x] ?\d{1,2}|\d{1,2}(?=$)",
        "less": r"(?:one |1 )?less",
        "body": r"(?:the |a )?body of|lying|lies|lay|floating",
        "so far": r"so far|sadly|unfortunately|overnight",
        "cause": r"jumped(?: out)?(?: and)?|while (?:molting|moulting)|(?:after|during) (?:a|the) (?:failed )?moult|"
        r"of (?:old age|dropsy)",
    },
    who="here",
)  # fmt: skip


def _came(told: Parts) -> Said:
    if "who" not in told or not ({"put", "in", "them"} & set(told)):
        return None
    went = told.get("in", "").startswith(("went", "moved", "joined", "are", "is", "came"))
    if not {"put", "them", "got"} & set(told) and not went:
        return None
    if "put" in told and re.match(r"put|let|set", told["put"]) and "in" not in told and "where" not in told:
        return None
    count = _count(told)
    if count is None or not _plural_agrees(told, count):
        return None
    more = "".join(f" {told[k].strip()}" for k in ("length", "bred", "from") if k in told)
    return f"in {count} {told['who']}{more}"


CAME = Frame(
    r"added|introduced|stocked|released|put|let|moved|went|joined|in|set",
    _came,
    {
        "n": _HEADS,
        "looks": _LOOKS,
        "put": r"added|introduced|stocked|released|put|let|set free",
        "arrived": r"(?:arrived|acclimatised|acclimated|drip acclimated|floated)(?: and)?",
        "behind": r"\d{1,3} of them",
        "got": r"bought|got|brought home|picked up|purchased|my new|new arrivals?:?",
        "them": r"(?:and )?(?:put|released|added|let) them(?: in| go)?",
        "in": r"(?:went|moved|came|are|is|go|now)(?: all)? (?:in|free)(?= |,|$)|go|joined|in",
        "where": rf"(?:all )?{_IN_TANK}|the tank|home",
        "slowly": r"after (?:(?:\d{1,2}|an|half an) (?:hours?|minutes?|min|h) of )?(?:drip|acclimation|acclimatisation|"
        r"acclimatising|acclimating|floating|drip acclimation)(?: them)?",
        "length": LENGTH.replace("?P<cm>", "").replace("?P<unit>", ""),
        "bred": BRED.replace("?P<bred>", ""),
        "from": rf"from (?:the|a) {SHOP}",
        "house": HOUSE,
    },
    who="new",
)  # fmt: skip
_PERSON = (
    r"friends|neighbou?rs|(?:the|a|an|my|our|another|some) (?:neighbou?rs?|friends?|colleague|sister|brother|aunt|"
    r"uncle|mum|mom|dad|mother|father|cousin|nephew|niece|son|daughter|hobbyist|keeper|guy|girl|kid|teacher|school)"
)
_PLACE = (
    rf"(?:the |a |fish )?{SHOP}|(?:the|my|our|an) (?:other|second|quarantine|hospital|another|big|nano) tank|the pond"
)


def _given(told: Parts) -> Said:
    if "who" not in told:
        return None
    to = told.get("to", "")
    swapped = "online" in told and told.get("moved", "").startswith(("swapped", "traded"))
    alone = "sold" in told or "away" in told or swapped
    by_taker = "taker" in told
    if by_taker and not to and re.match(r"gave|handed|sold|sent", next(iter(told.values()))):
        to, by_taker = told["taker"], False  # 'gave a friend 4 guppies'
    if not (("took" in told and not (alone or to)) if by_taker else (alone or ("moved" in told and to))):
        return None
    count = _count(told)
    if count is None or not _plural_agrees(told, count):
        return None
    taker = re.sub(r"^(?:back )?(?:to|into|for) ", "", to) or told.get("taker", "")
    return f"gave {count} {told['who']}{f' to {taker}' if taker else ''}"


GIVEN = Frame(
    r"gave|given|handed|sold|returned|rehomed|donated|swapped|traded|moved|took|taken|brought|went|sent|passed|to",
    _given,
    {
        "n": _HEADS,
        "looks": _LOOKS,
        "sold": r"sold|rehomed|donated",
        "away": r"(?:gave|given|went|passed|taken) away|away",
        "moved": r"gave|given|handed|returned|swapped|traded|moved|took|taken|brought|went|sent|passed|go",
        "over": r"over|back|off|on|out",
        "to": rf"(?:back )?(?:to|into) (?:{_PERSON}|{_PLACE})",
        "taker": rf"{_PERSON}|the {SHOP}",
        "took": r"took|collected|picked up|got",
        "online": r"online|at the (?:shop|store|club|auction)",
        "price": r"for [$£€]?\d+(?:\.\d\d)?(?: each)?",
    },
    who="here",
)  # fmt: skip


def _is_count(told: Parts, seen: int, of: int) -> bool:
    """'8 of 8 rasboras', '7 of 8 rasboras seen'; '7 of 8 rasboras' may go on with what they do."""
    return "n" not in told and (seen == of or (seen < of and "seen" in told))


def _counted(told: Parts) -> Said:
    if "who" not in told or not {"seen", "of"} & set(told):
        return None
    if (of := re.fullmatch(r"(\d+) of (?:the )?(\d+)", told.get("of", ""))) is not None:
        return f"counted {of[1]} {told['who']}" if _is_count(told, *map(int, of.groups())) else None
    count = _count(told)
    return None if count is None or not count.isdigit() else f"counted {count} {told['who']}"


COUNTED = Frame(
    r"counted|count|see|seen|saw|present|there|here|accounted|\d of \d+|\d of the \d+",
    _counted,
    {
        "of": r"\d{1,3} of (?:the )?\d{1,3}",
        "n": r"(?:all )?\d{1,3}(?: of)?(?: (?:the|my))?",
        "looks": _LOOKS,
        "seen": r"(?:(?:all|are|were|still|and) )*(?:counted|head ?count(?: of)?:?|count:?|seen|saw|present|"
        r"there are|there|here|accounted for|i (?:can )?see(?= all)|i count)(?: all)?",
        "all": r"all(?: present| there| accounted for| here)?",
        "behind": r"(?:all )?\d{1,3}",
        "where": _IN_TANK,
    },
    more=rf"{PASSIVE}|alive|healthy|well|now",
    who="here",
)  # fmt: skip


def _born(told: Parts) -> Said:
    count = re.search(r"\d+", told.get("n", ""))
    if count is None or "who" not in told or "born" not in told:
        return None
    birth = re.search(r"born|hatched|birth|dropped", told["born"])
    return f"born {count[0]} {told['who']}" if birth or "young" in told else None


BORN = Frame(
    r"born|hatched|birth|dropped|had|fry|bab(?:y|ies)|young|shrimplets",
    _born,
    {
        "n": r"(?:about |around |roughly |some )?\d{1,3}",
        "young": r"babies|baby|fry|young(?: ones)?|little ones|offspring|shrimplets?|newborns?",
        "born": r"born|hatched|gave birth(?: to)?|has given birth to|had|dropped|seen|spotted|found|counted|"
        r"in the tank",
        "where": _LYING,
        "at least": r"at least",
    },
    who="here",
)  # fmt: skip
