"""Words that may turn what stands beside them into something else: a denial, a doubt, a plan, another time, water or
keeper. A piece that holds one is asked about, never put right, but for the places where such a word bends nothing."""

from __future__ import annotations

from jarbloom.patterns import regex

BENDS = regex(
    r"\?|\b(?:"
    r"no|not|never|no longer|nobody|nothing|without|almost|nearly|isn.?t|wasn.?t|didn.?t|don.?t|won.?t|hasn.?t|"
    r"haven.?t|can.?t|cannot|couldn.?t|i think|guess|probably|perhaps|possibly|plan\w*|will|going to|gonna|"
    r"shall|should|would|could|might|must|want\w*|need\w*|if|unless|tomorrow|next|later|soon|instead|"
    r"correction|wrong|meant|actually|typo|sorry|tap|bag|shop|store|well|ro|rodi|quarantine|qt|bucket|hospital|"
    r"other|neighbou?r\w*|friend\w*|his|her|their tank|mum|dad|sister|brother|each|every|daily|times|twice|"
    r"usually|normally|always|often|since|because|before|after|until|til|till|target|goal|limit|supposed|says|"
    r"said|told|forum|article|read about|minus|plus|total|free|also|except|but|half full|jumped|born|eggs?|fry|"
    r"babies|per|remember|forgot|think|hope|maybe|due|start\w*|stop\w*"
    r")\b"
)
_SEEN_BENT = regex(
    r"\b(?:not (?:eating|moving|swimming)|(?:will not|wo ?n.?t|does not|does ?n.?t|do not|do ?n.?t) eat|"
    r"since (?:the )?\w+(?: \w+)?(?: \w+)?$)"
)
_NOT_SEEN_HERE = regex(  # of what was seen, besides: in another place or year, in a dream, or to be taken back
    r"\b(?:to ?do|remind\w*|can i|wish|why|dream\w*|about to|cancel|undo|delete|at work|video|when i|"
    r"(?:the|a) film (?:about|with|was|is)|in (?:the|a) film|years?|months?|pond|"
    r"example|they say|skip\w*|missed|tried|nonsense|test)\b"
)
_OF_EGGS = regex(r"\b(?:of|like) (?:rotten |bad )?eggs\b")
_KIN = r"(?:sister|brother|mum|dad|neighbou?r|friend)"
_HARMLESS = (
    regex(r"(?<=\d),? maybe (?=[.\d])"),  # between two numbers it makes a range of them
    regex(r"\bnot above (?=[.\d])|\b(?:died|dead) since (?:yesterday|last night|this morning)$"),
    regex(rf"\b(?:from|to) (?:the |a |my )(?:shop|store|{_KIN})\b"),
    regex(rf"^(?:my )?{_KIN}(?= (?:took|got|collected) \d)"),
    regex(r"\bper (?:thousand|l(?:it(?:re|er))?)\b|\bsince (?:the )?(?:new|change)\b"),
    regex(
        r"\b(?:\d+(?: [a-z]+)?|had|some) (?:babies|born|fry)\b|\bborn \d+|\bmust have jumped\b"
        r"|\b(?:from|to the) quarantine\b|\beach\b"
    ),
)


def bent(piece: str) -> bool:
    """Whether a word in it may turn it into something else."""
    for harmless in _HARMLESS:
        piece = harmless.sub(" ", piece)
    return bool(BENDS.search(piece))


def bent_sign(piece: str) -> bool:
    """The same of what was seen: 'not eating' is a sign."""
    return bool(BENDS.search(_SEEN_BENT.sub("", _OF_EGGS.sub("", piece))) or _NOT_SEEN_HERE.search(piece))
