"""Animals as people speak of them: came, died, born, given, counted, in the words of the log line."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

from jarbloom.core.journal.spoken.readings import ABOUT, NUM, Said
from jarbloom.patterns import regex

NAME = r"[a-z][a-z' -]{2,40}?"
N = r"(?P<n>\d{1,3} of (?:the|my)|\d{1,3}|one of the|one of my|a|an|one|the|another|my|both|all \d{1,3})"
WHO = rf"(?P<name>{NAME})"
SHOP = r"(?:shop|store|club|auction|market|breeder|internet|mail|post)"
_FROM = rf"(?: (?:from|at) (?P<seller>the {SHOP}|a {SHOP}|my [a-z]+|a friend|{SHOP}))?"
LENGTH = (
    rf"(?:length |at |all |each |of )*(?:{ABOUT})?(?P<cm>{NUM}) ?"
    r"(?P<unit>cm|mm|centimet(?:er|re)s?|inch(?:es)?|in\b|\")(?: each| long)*"
)
BRED = r"(?P<bred>wild caught|wild|captive bred|tank bred)"
_LONG = rf"(?:,? {LENGTH})?"
_PAID = (
    r"(?:,? (?:for|paid|cost(?:ing)?|at(?= [$£€]| \S+ (?:each|a piece|apiece)| \S+[$£€])) "
    r"[$£€]?(?P<paid>\d{1,4}(?:\.\d\d)?)[$£€]?(?P<each> each| a piece| apiece)?)?"
)
_BRED = rf"(?:,? {BRED})?"
_YOUNG = (
    r"(?:more |new |old |oldest |biggest |big |female |male |pregnant |mother |last |first |favourite |young |small |"
    r"little |baby |healthy |of the |of my |the )*"
)
_LATELY = r"(?: (?:today|just now|now|already|again|finally|in|into the tank|to the tank|in the tank|home))*"
_GONE = r"(?:died|dead|passed away|passed|found dead)"
_WHERE = (
    r"(?: (?:on|behind|under|in|at|stuck (?:to|in|on)) (?:the |my )?(?:floor|carpet|sand|gravel|bottom|filter|intake|"
    r"wood|rock|rocks|plants|tank|back|front|surface)(?: (?:behind|of|in|next to) the [a-z]+)?"
    r"| overnight| since (?:yesterday|last night|this morning))*"
)


@dataclass(frozen=True)
class Residents:
    """Who lives there, for what is said without a name: '2 died, 6 left', 'all 8 there'. `only`: the name of the one
    kind, '' where there are several or none."""

    only: str = ""
    count: int = 0


def _heads(m: re.Match[str]) -> str | None:
    """The number as figures, '' for one that is not said, None where 'the rasboras died' leaves it open."""
    n, name = m["n"], m["name"]
    if not n:
        return ""
    if n == "both":
        return "2"
    if n.startswith("all "):
        return n[4:]
    if n.split()[0].isdigit():
        return n.split()[0]
    return None if n in ("a", "an", "the", "my", "another") and name.endswith("s") and not name.endswith("ss") else "1"


def _animals(word: str, behind: str = "") -> Callable[[re.Match[str]], Said]:
    def told(m: re.Match[str]) -> Said:
        count = _heads(m)
        if count is None or _NO_ANIMAL.search(m["name"]):
            return None
        return " ".join(f"{word} {count} {m['name']}{more_said(m)} {behind}".split())

    return told


_NO_ANIMALS = (
    "none nobody nothing no and or with then but because that which who was were is are had has have lot bit few "
    "some many "
    "litre litres gallon gallons gram grams bottle bottles bag bags bunch bunches piece pieces plant plants leaf "
    "leaves moss "
    "anubias stone stones rock rocks wood salt times day days week weeks hour hours percent sleep pump heater "
    "filter "
    "light lamp sand gravel sponge carbon food flakes water it them they him her home fish wc ago male female to "
    "from for of "
    "each today yesterday again not found left more time new in on at out off over under"
)
_NO_ANIMAL = regex(rf"^(?:the|my|our|an?) |\b(?:{'|'.join(_NO_ANIMALS.split())})\b")


def more_said(m: re.Match[str]) -> str:
    """Length, origin and price that a match holds, in the shorthand, with a blank before each."""
    told = m.groupdict()
    text = ""
    if told.get("cm"):
        unit = "cm" if told["unit"].startswith("c") else "mm" if told["unit"] == "mm" else "inch"
        text += f" {told['cm']} {unit}"
    if told.get("bred"):
        text += " wild" if told["bred"].startswith("wild") else " bred"
    if told.get("paid") and (told.get("each") is None or told["n"].isdigit()):
        price = float(told["paid"]) * (int(told["n"]) if told.get("each") else 1)
        text += f" paid {price:g}"
    seller = next((told[name] for name in ("seller", "seller2", "seller3") if told.get(name)), "")
    text += f" from {seller}" if seller else ""
    return text


def _mine(word: str) -> Callable[[re.Match[str], Residents], Said]:
    return lambda m, here: f"{word} {m['n']} {here.only}" if here.only else None


def _left(m: re.Match[str], here: Residents) -> Said:
    if not here.only or (m["of"] and int(m["of"]) != here.count):
        return None
    return f"counted {m['n']} {here.only}"


def _sexes(m: re.Match[str]) -> Said:
    return f"in {int(m[1]) + int(m[2])} {m['name']}"


_EXTRAS = rf"{_FROM}{_LONG}{_BRED}{_FROM.replace('seller', 'seller2')}{_PAID}{_FROM.replace('seller', 'seller3')}"
_PUT_IN = (
    r"(?:added|put in|introduced|got|brought(?: home)?|brought in|in|\+|released|rehomed in|picked up and added|"
    r"new fish:?|new arrivals?:?|newcomers:?)"
)
_FAMILY = (
    r"(?:my |the |our )?(?:wife|husband|son|daughter|sister|brother|mum|mom|dad|mother|father|neighbou?r|friend|nephew|"
    r"niece|cousin|colleague)"
)
_TABLE: tuple[tuple[re.Pattern[str], Callable[[re.Match[str]], Said]], ...] = tuple(
    (regex(pattern), plain)
    for pattern, plain in (
        (rf"(?P<n>)all (?:of )?(?:the |my )*{WHO} (?:are |have |were )?(?:all )?{_GONE}{_WHERE}", _animals("dead all")),
        (rf"(?P<n>)lost all (?:of )?(?:the |my )*{WHO}", _animals("dead all")),
        (rf"(?:found )?{N} (?:{_YOUNG}|dead ){WHO} (?:has |have |is |are |were |was |just )?{_GONE}{_WHERE}",
         _animals("dead")),
        (rf"(?:the |my )?(?P<n>){_YOUNG}{WHO} (?:has |is |was |just )?(?:died|dead|passed "
         rf"away){_WHERE}", _animals("dead")),
        (rf"{WHO}(?P<n>) (?:has |is |was |just )?{_GONE}{_WHERE}", _animals("dead")),
        (rf"(?:found|lost|rip|r\.i\.p\.?|took out|removed)(?: {N})? dead {WHO}{_WHERE}", _animals("dead", "found")),
        (rf"{N} dead {WHO}{_WHERE}", _animals("dead", "found")),
        (rf"found {N} {WHO} (?:dead )?on the (?:floor|carpet|rug)(?: behind the [a-z]+)?",
         _animals("dead", "found jumped")),
        (rf"(?:lost|rip|r\.i\.p\.?|dead|died:?)(?: {N})? {_YOUNG}{WHO}{_WHERE}", _animals("dead")),
        (rf"(?:lost|rip) (?P<n>\d{{1,3}}) of (?:the|my) \d{{1,3}} {WHO}", _animals("dead")),
        (rf"{_PUT_IN} ?(?P<n>\d{{1,3}}) {_YOUNG}{WHO}{_LATELY}{_EXTRAS}{_LATELY}", _animals("in")),
        (rf"(?:added|put in|introduced) (?P<n>an?|one|1) {_YOUNG}{WHO}{_LATELY}{_EXTRAS}", _animals("in")),
        (rf"(?:bought and added|new:) (?P<n>\d{{1,3}}) {_YOUNG}{WHO}{_EXTRAS}", _animals("in")),
        (rf"(?P<n>\d{{1,3}}) {_YOUNG}{WHO} (?:in|added|arrived|went in|came in|moved in|introduced|released|joined)"
         rf"(?: to| into)?(?: the tank)?{_EXTRAS}", _animals("in")),
        (rf"put (?:the |my )?(?P<n>\d{{1,3}}) {WHO} in(?:to the tank| the tank)?", _animals("in")),
        (rf"(?P<n>\d{{1,3}})/(?P<of>\d{{1,3}}) {WHO}(?: seen| there| "
         r"present)?", lambda m: _animals("counted")(m) if int(m["n"]) <= int(m["of"]) else None),
        (rf"(?P<n>\d{{1,3}}) new {WHO}{_EXTRAS}", _animals("in")),
        (rf"(?P<n>\d{{1,3}}) {WHO} (?:at|for) (?P<paid>\d{{1,3}}(?:\.\d\d)?)(?P<each> each| apiece)", _animals("in")),
        (rf"brought (?:the |my )?(?P<n>\d{{1,3}}) {WHO} back from (?:the )?(?P<seller>quarantine|hospital)(?: tank)?",
         _animals("in")),
        (rf"(?:in )?(\d{{1,2}}) males?,? (?:and )?(\d{{1,2}}) females? {WHO}(?: in| added)?", _sexes),
        (rf"counted (?P<n>\d{{1,3}}) of (?:the )?(?P<of>\d{{1,3}}) {WHO}",
         lambda m: _animals("counted")(m) if int(m["n"]) <= int(m["of"]) else None),
        (rf"(?:counted|saw all|count(?:ed)?:?|seen all) (?P<n>\d{{1,3}}) {WHO}", _animals("counted")),
        (rf"(?P<n>both) {WHO} (?:seen|there|present|here|out|accounted for)", _animals("counted")),
        (rf"(?P<n>\d{{1,3}}) {WHO} (?:born|hatched)", _animals("born")),
        (rf"(?:the |my |our )?{WHO} (?:had|has|dropped|gave birth to)(?: her| some)?(?: babies| fry| young)?,? "
         rf"(?:{ABOUT}|at least )?(?P<n>\d{{1,3}})(?: babies| fry| young)?", _animals("born")),
        (rf"(?:rehomed|gave away|sold) (?P<n>the|my|a|an|one) {_YOUNG}{WHO}(?P<to>)", lambda m: _given(m)),
        (rf"sold (?P<n>\d{{1,3}}) {_YOUNG}{WHO}(?: to (?P<to>the {SHOP}|a {SHOP}|my [a-z]+|a [a-z]+))?"
         r"(?: (?:for|at) [$£€]?\d+(?:\.\d\d)?)?", lambda m: _given(m)),
        (rf"(?:returned|took|brought|gave|rehomed|donated|sent|moved|transferred) (?P<n>\d{{1,3}}) {_YOUNG}{WHO} "
         rf"(?:back )?(?:to|into) (?P<to>the (?:{SHOP}|quarantine tank|hospital tank|other tank|pond)|a {SHOP}|my "
         r"[a-z]+|a [a-z]+)",
         lambda m: _given(m)),
        (rf"(?P<to>{_FAMILY}) (?:took|got|has|collected) (?P<n>\d{{1,3}}) (?:of )?{_YOUNG}{WHO}", lambda m: _given(m)),
    )
)  # fmt: skip
_MINE: tuple[tuple[re.Pattern[str], Callable[[re.Match[str], Residents], Said]], ...] = tuple(
    (regex(pattern), plain)
    for pattern, plain in (
        (
            rf"(?:another |lost )?(?P<n>\d{{1,3}}) (?:more )?(?:fish )?(?:have |has "
            rf")?{_GONE}",
            _mine("dead"),
        ),
        (r"lost (?P<n>\d{1,3})(?: more)?(?: fish)?", _mine("dead")),
        (r"(?:all )?(?P<n>\d{1,3})(?: of (?P<of>\d{1,3}))?(?: are)? (?:left|there|present|here|seen|alive)", _left),
        (r"all (?P<n>\d{1,3})(?P<of>) (?:there|present|here|seen|accounted for|fine|ok|alive|well)", _left),
    )
)
_LISTED = regex(rf"(?:and )?{N} {_YOUNG}{WHO}{_LONG}")
_COUNT = regex(r"([a-z][a-z' -]+): ?(\d{1,3})")  # 'rasboras: 8, guppies: 10'
_COUNTS = regex(r"[a-z][a-z' -]+: ?\d{1,3}(?:,? (?:and )?[a-z][a-z' -]+: ?\d{1,3})+")
_VERB = regex(r"(dead|in|counted|born) ")
_SEVERAL = regex(
    r"(?:(?P<lead>added|put in|got|in|lost|new arrivals?:?|newcomers:?|everyone (?:present|here)(?: and correct)?:?|"
    r"(?:counted (?:everyone|everybody|all|them)|head ?count|count):?) )?"
    r"(?P<list>(?:\d{1,3}|an?|one) .+?)(?: (?P<end>died|dead|are dead|in|added|arrived|went in|counted))?"
)


def _given(m: re.Match[str]) -> Said:
    told = _animals("gave")(m)
    return f"{told} to {m['to']}" if told and m["to"] else told


def several(text: str) -> Said:
    """'3 rasboras and 2 pandas dead': each group by the verb before or behind all of them."""
    if (counted := _COUNTS.fullmatch(text)) is not None:
        return " ".join(f"counted {n} {name}" for name, n in _COUNT.findall(counted[0]))
    hit = _SEVERAL.fullmatch(text)
    if hit is None or bool(hit["lead"]) == bool(hit["end"]):
        return None
    groups = [_LISTED.fullmatch(g) for g in re.split(r",? and |, | & | \+ ", hit["list"])]
    if len(groups) < 2 or not all(groups):
        return None
    said = hit["lead"] or hit["end"]
    word = (
        "counted"
        if said.startswith(("everyone", "counted", "head", "count"))
        else "dead"
        if re.search(r"dead|died|lost", said)
        else "in"
    )
    told = [_animals(word)(g) for g in groups if g is not None]
    return " ".join(t for t in told if t) if all(told) else None


def creatures(piece: str, before: str, here: Residents) -> Said:
    """The piece in the shorthand where it tells of animals and nothing else; `before`: what the piece before came to,
    which a list goes on from."""
    for pattern, plain in _TABLE:
        hit = pattern.fullmatch(piece)
        if hit is not None and (told := plain(hit)) is not None:
            return told
    for pattern, mine in _MINE:
        hit = pattern.fullmatch(piece)
        if hit is not None and (told := mine(hit, here)) is not None:
            return told
    born = re.fullmatch(r"(?P<n>\d{1,3}) (?:born|babies|fry)", piece)
    name = re.match(r"(?:dead|counted|in) \d* ?([a-z -]+)$", before)
    if born:
        return f"born {born['n']} {name[1]}" if name else None
    verb, listed = _VERB.match(before), _LISTED.fullmatch(piece)
    return _animals(verb[1])(listed) if verb and listed else None
