"""A typed or dictated line as plain text: small letters, our figures, no faces, one wording for one thing."""

from __future__ import annotations

import re
import unicodedata

from jarbloom.core.journal.spoken.readings import NUM
from jarbloom.patterns import regex

_DOTS = {ord(c): "?" for c in "․‧·∙"}  # between figures they may be a point or none
_WIDE = {0xFEE0 + c: c for c in range(0x21, 0x7F)} | {0x3000: " "}  # letters and figures of full width
_SMILE = regex(r"[:;]-?[)(dp]|\^\^|<3|[\U0001F300-\U0001FAFF\u2600-\u27BF\uFE0F]")
_GRIM = regex(r"[\U0001F480\u2620\u274C\u26A0\U0001F198\U0001F6AB\U0001F44E\u2753\u2754]")  # these say something
# a comma that parts what belongs together: 'guppy had babies, some 20', 'bought 12 cherry shrimp, put them in'
_TOGETHER = regex(
    r"(\b(?:babies|fry|young)\b|\bbought (?:an? )?\w+ [a-z ]+), (?=(?:some|about|around|at least"
    r"|over)? ?\w+$|(?:and )?(?:put|added|released) them)()"
)
_BEFORE = regex(r"^(?: |[.,](?!\d))+")  # says nothing in front; the point of ".5" says a lot
_SHORT = "am|ni|na|ph|kh|gh|t"
_GLUED = regex(rf"(?:(?:{_SHORT})[:=]?{NUM}){{2,}}")
_OF_CHANGE = rf"{NUM} ?(?:%|l|litres?|liters?|gal|gallons?)"
_TIMES = (  # several changes of one size; how many
    regex(rf"^(?P<n>[2-4]) ?[x×] ?(?P<of>{_OF_CHANGE}) (?:wc|water changes?)$"),
    regex(rf"^(?:wc|water changes?) (?P<n>[2-4]) ?[x×] ?(?P<of>{_OF_CHANGE})$"),
    regex(rf"^(?:wc|water change) (?P<of>{_OF_CHANGE}) ?[x×] ?(?P<n>[2-4])$"),
)
_TWICE = regex(
    r"^(?P<first>today |this morning |yesterday )?(?P<fed>(?:(?:my|the|our) [a-z]+ |dad |mum |mom |grandma |grandpa |"
    r"i |we )?fed)"
    r"(?: (?:the fish|the tank|them|it|all|everyone))? (?P<n>twice|thrice|(?:[23]|two|three) times|[23] ?x)"
    r"(?P<day> today| yesterday)?$"
)
_SAME_THING = (
    # a label of the keeper's own: the tank's age says it too
    (regex(r"^(?:day|week) \d{1,3}[:,]? (?=(?:am|ni|na|ph|kh|t|ammonia|nitrite|nitrate|temp|fed|wc)\b)"), ""),
    (regex(r"^(?:at least|about|around|roughly) (?=\d{1,2} [a-z ]+ (?:dead|died|gone|born)$)"), ""),
    (regex(r"(\bleak(?:ing)?(?: [a-z]+){0,4}), (?=(?:lost |about )+[\d.]+ ?(?:l|litres?|liters?|gal|gallons?)$)"),
     r"\1 "),
    (regex(r"^(lost \d+ [a-z ]+?) (found (?:it |him |her )?(?:dead )?on the (?:floor|carpet|rug))$"), r"\1, \2"),
    # the letter for the figure
    (regex(rf"\b((?:{_SHORT}|ammonia|nitrite|nitrate) )o(?=\.?\d|[ ,]|$)"), r"\g<1>0"),
    (regex(r"^(yesterday|this) morning and evening (.+)$|^(.+) (yesterday|this) morning and evening$"),
     r"\1\4 morning \2\3, \1\4 evening \2\3"),
    (regex(r"\b(water change), (?=(?:about |around )?(?:a third|half|a quarter|\d+ ?%|\d+ ?l\b))"), r"\1 "),
    (regex(r"^-(\d+) ([a-z ]+?) jumped$"), r"\1 \2 dead, must have jumped"),
    (regex(rf"^\+ ?({NUM}) ?l (?:of )?(?:ro|rodi|fresh)(?: water)?$"), r"top \1 l"),
    (regex(r"^((?:dead|lost) \d+ [a-z ]+?) (?=(?:body )?not found$)"), r"\1, "),
    (regex(r"^(wc \S+) \+ (?=\S+$)"), r"\1, wc "),
    (regex(rf"^({NUM} ?(?:l|litres?|gal|gallons?) out), (?={NUM} ?(?:l|litres?|gal|gallons?) in\b)"), r"\1 "),
    (regex(r"\b(ph|kh|temp|salinity) (?:has ?n.t|has not|did ?n.t) (?:moved?|changed?),? (?:is )?(?:still |at )+"),
     r"\1 "),
    (regex(r"^filter cleaned, (?:in )?tank water, (1 of (?:the )?\d) (?:sponges|pads)$"),
     r"cleaned \1 sponges in tank water"),
    (regex(r" w/ "), " with "),
    (regex(r" jumped(?: out)?,? (?:and )?(?:but )?(?:i )?(?:put|got|threw) (?:it|him|her|them) "
                r"(?:straight |right )?back(?: in)?(?:,? (?:and )?(?:it |he |she |they )?(?:swims?(?: again)?|swimming|"
                r"(?:is |are |looks |seems )?(?:ok|fine|alive|well)))?$"), " jumped and was put back"),
    (regex(r"\b(topped (?:it |them |the tank )?(?:up|off)), (?=[\d.]+ ?(?:l|litres?|ml|gal|gallons?)\b"
                r"|(?:a|one|two|three|four|five|half) (?:l|litres?|liters?|gal)\w*)"), r"\1 "),
    (regex(r"\b(?:did ?n't|did not) make it\b"), "died"),
    (regex(r"^(.+?) jumped(?: out)?,? (?:and )?(?:(?:is|was|found|lay) )?dead(?: on the (?:floor|carpet))?$"),
     r"\1 dead, must have jumped"),
    (regex(r"^(morning|evening) (?:tests?|readings?)[: ]+"), r"this \1 "),
    (regex(r"\b(last night|yesterday|this morning|morning|evening)(?:'s)? (?:test|reading)s?:? "), r"\1 "),
    (regex(r"^(?:i )?(?:tested|tests?|results?|readings?|numbers)(?: from| of)? (?=(?:this|last|yesterday|today|"
                r"mon|tue|wed|thu|fri|sat|sun)[a-z ]{0,20}:)"), ""),
)  # fmt: skip


def plain_text(line: str) -> str:
    """Small letters, figures of any script as ours, no faces; None of this is kept, only read."""
    text = line.translate(_DOTS).translate(_WIDE).replace("’", "'").replace("٫", ".")
    text = "".join(str(unicodedata.decimal(c)) if c.isdecimal() and not c.isascii() else c for c in text)
    if not _GRIM.search(text):
        text = _SMILE.sub(" ", text.lower())
    text = " ".join(re.sub(r"!+", " ", text.lower()).split()).rstrip(" .,")
    return re.sub(r"^,(?=\d)", ".", _BEFORE.sub("", text))


def in_one_wording(text: str) -> str:
    """
    >>> in_one_wording("2 guppies didn't make it"), in_one_wording("guppy had babies, some 20")
    ('2 guppies died', 'guppy had babies some 20')
    >>> in_one_wording("am.5ni1na10"), in_one_wording("2x25% wc"), in_one_wording("am o ni o.25")
    ('am .5 ni 1 na 10', 'wc 25%, wc 25%', 'am 0 ni 0.25')
    """
    text = re.sub(r"\b(?:new line|period|comma|full stop)\b", ",", text) if " " in text else text
    if _GLUED.fullmatch(text):
        text = re.sub(rf"({_SHORT})[:=]?({NUM})", r"\1 \2 ", text).strip()
    for times in _TIMES:
        if (hit := times.match(text)) is not None:
            text = ", ".join([f"wc {hit['of']}"] * int(hit["n"]))
    if (hit := _TWICE.match(text)) is not None and not (hit["first"] and hit["day"]):
        day = (hit["first"] or hit["day"] or "").strip()
        once = f"{day} {hit['fed']}".strip()
        text = ", ".join([once] * (3 if hit["n"].startswith(("3", "th")) else 2))
    for said, plain in _SAME_THING:
        text = said.sub(plain, text)
    return _TOGETHER.sub(r"\1 \2", text)
