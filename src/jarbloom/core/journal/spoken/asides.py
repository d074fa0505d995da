"""What is said besides: plans, denials, other waters, other people, things of no consequence. It is kept in the
keeper's words and counts for nothing, and only where it is plain that it says no more than that.

A word of danger among them (HARM) makes it none of these: then it is asked about.
"""

from __future__ import annotations

import re
from collections.abc import Iterable

from jarbloom.core.journal.spoken.bends import BENDS
from jarbloom.core.journal.spoken.readings import readings
from jarbloom.core.journal.spoken.spelling import words
from jarbloom.patterns import regex

# Whoever says one of these may be telling of a loss, an illness or a fault, whatever else the sentence is
HARM = regex(
    r"\b(?:dead|died|dying|die|dies|death|lost|loss|losing|kill\w*|gasp\w*|breath\w*|eat|eats|eating|eaten|ate|swim\w*|"
    r"mov(?:e|es|ing)|sick|ill|illness|weak|spots?|fungus|blood\w*|wound\w*|injur\w*|swollen|bloat\w*|pale|slime|milky|"
    r"cloud\w*|foam\w*|smell\w*|stink\w*|rot\w*|fight\w*|attack\w*|bit|bitten|bull\w*|hid|hides?|hiding|missing|gone|"
    r"vanish\w*|jump\w*|help|emergency|panic\w*|strange|odd|weird|wors\w*|stuck|broke\w*|flood\w*|floor|"
    r"shock\w*|tingl\w*|spark\w*|smoke\w*|burn\w*|crack\w*|leak\w*|clamp\w*|flash\w*|parasit\w*|worms?|lice|poison\w*|"
    r"copper|bleach|soap|spray\w*|medic\w*|treat\w*|vet|unplug\w*|electric\w*|chlor\w*)\b"
)
_SUBJECT = r"(?:i |we |i'll |we'll |i'd |i'm |we're |the plan is |so |then |and |but |just |also |only |still )*"
_DO = (
    r"(?:change|do|dose|feed|test|add|get|buy|pick up|order|rinse|clean|top|check|move|try|start|replace|swap|set|turn|"
    r"raise|lower|bring|introduce|put|build|plant|trim|catch|take|keep|see|go|wait|read|call|ask)"
)
_DAY = r"(?:mon|tue|wed|thu|fri|sat|sun)\w*"
PLAN = regex(
    rf"^(?:(?:to ?do|todo|reminder|plan(?:s|ned)?|scheduled|next|tomorrow|note to self|shopping list)\b.*"
    rf"|{_SUBJECT}(?:will|shall|should|would|could|must|might|may|gonna|going to|about to|need to|needs to|have to"
    r"|has to|"
    rf"want to|wanna|hope to|hoping to|would like to|plan to|planning to|thinking of|supposed to|ought to|remember to|"
    rf"don't forget to)\b (?:maybe |probably |soon |really |only )*{_DO}\b.*"
    rf"|{_SUBJECT}(?:need|needs|want|planning|thinking (?:of|about)|considering|hoping for|aiming for|aim for"
    r"|looking for|saving for)\b .*"
    r"|pick (?:them )?up .*|(?:call|phone|ring|ask|email|visit) (?:the |my )?(?:shop|store|vet|club)\b.*|(?:remind "
    r"me|remember|don't forget|let'?s say|let'?s) .*"
    rf"|(?:ordered|reserved|pre-?ordered|promised|planning) .*|.*\b(?:reserved|promised|on order|planned)\b.*"
    rf"|.* ?\b(?:tomorrow|from now on|next (?:week|month|weekend|{_DAY}))\b.*|if .*\b(?:change|dose|feed|test|add"
    r"|do)\b.*"
    rf"|maybe {_DO}\b.*\b(?:later|soon|tonight|then)|would have .*|in \d+ (?:hours|days|weeks) .*"
    rf"|.*\bwill be\b .*|.*\bannounced\b.*)$"
)
_DONE = regex(
    r"^(?:i |we )?(?:fed|changed|did|added|lost|found|got|dosed|tested|rinsed|cleaned|topped|put|gave|moved|saw|took)\b"
)
_OF_WHAT = regex(rf"\b(?:{_DO}|wc|change|test|ordered|reserved|promised)\b")
_OF_ITSELF = regex(
    r"\b(?:it|that|this|so|one|them"
    r"|same)\b"
)  # 'will do it tomorrow': what stands before is the plan
_NO = (
    r"(?:not|no|none|nobody|nothing|never|skipped|did ?n.t|did not|have ?n.t|have not|has ?n.t|has not|was ?n.t"
    r"|were ?n.t|"
    r"is ?n.t|are ?n.t|no longer|no more|stopped|gave up on|without|forgot|forgot to|didn.t get round to)"
)
_DENIED = words(
    "fed feed food feeding change changed changes changing water wc test tested tests testing dose dosed dosing death "
    "deaths dead died fish loss losses lost gasping clamped fins smell milky missing rinse rinsed media filter sponge "
    "uv skimmer light lights on off turned switched conditioner bacteria yet any anything today this week more longer "
    "left ammonia nitrite nitrate ph kh kit time the a an it them all of for and or now after well add added top "
    "topped "
    "up again anymore hiding been to no not none since yesterday morning evening month done neons tetras guppies "
    "rasboras "
    "shrimp animals animal new ones"
)
_WHAT = words(
    "fed feed food feeding change changed changing wc test tested testing tests dose dosed dosing death deaths dead "
    "died "
    "loss losses lost gasping clamped smell milky missing hiding rinse rinsed uv skimmer conditioner bacteria add "
    "added topped "
    "light lights water"
)
_DENIAL = regex(
    r"^(?:i |we |sorry |still |also |the |my |and |but )*(?:(?:water|fish|uv|skimmer|light|lights|tank|filter|media"
    r"|carbon|"
    rf"they|everyone|it) (?:is |are |was |were |has |have |had |got |been )*)?(?:{_NO})\b(.*)$"
)
_NO_TEST = regex(r"^(?:na|ni|am|nitrate|nitrite|ammonia|ph|kh) (?:-+|n/?a|not tested|\?+|skipped|no test)$")
_CONTRADICTS = {"fed": ("fed", "feed", "food", "feeding"), "wc": ("change", "changed", "wc", "water", "changing"),
                "dose": ("dose", "dosed", "dosing"), "dead": ("dead", "died", "death", "deaths", "lost", "loss"),
                "in": ("add", "added"), "off": ("off", "turned", "switched"), "on": ("on", "turned", "switched"),
                "am": ("test", "tested", "ammonia"), "ni": ("nitrite",), "na": ("nitrate",),
                "cond": ("conditioner",), "bac": ("bacteria",), "media": ("rinse", "rinsed", "media"),
                "top": ("topped", "top")}  # fmt: skip

_WATER = (
    r"(?:tap(?: water)?|bag(?: water)?|quarantine(?: tank| bucket)?|qt|hospital(?: tank)?|bucket|shop(?: water|'s "
    r"water)?|"
    r"store(?: water)?|mix(?:ing)? (?:bin|bucket|barrel)|(?:new )?salt ?mix|ro(?:di)?(?: unit| water)?|rain(?: ?water)?"
    r"(?: barrel)?|well(?: water)?|pond|other tank|second tank|reference(?: solution)?|buffer(?: solution)?|"
    r"distilled(?: water)?|source water|(?:\d+ ?h )?(?:aerated )?cup(?: of (?:the )?tap(?: water)?)?|new water|fresh "
    r"water|"
    r"room|reservoir|friend's tank)"
)
OTHER_FIRST = regex(
    rf"^(?:the |my |in the |in |from the |new )*(?P<water>{_WATER})(?: test)?(?:'s)?[ :,]+"
    r"(?P<rest>.*)$"
)
OTHER_LAST = regex(rf"^(?P<rest>.*?) (?:in|of|from|for) (?:the |my )?(?P<water>{_WATER})(?: today)?$")
OTHER_OF = regex(
    r"^(?:the )?(?P<rest>ph|kh|gh|ammonia|nitrite|nitrate|temp(?:erature)?|salinity|hardness) (?:of|in) (?:the |my "
    rf")?(?P<water>{_WATER})[ :]+"
    r"(?:is |was |reads? |at )*(?P<value>[\d.]+(?: ?(?:ppm|dkh|degrees|c|ppt))?)$"
)
READS = regex(r"^(?:is|was|reads?|shows?|showed|came out|has|at|test(?:ed)?|tests|water|read)(?: at)?[ :]+")
_OTHER_DEED = regex(
    r"^(?:(?:i )?(?:fed|changed|wc|cleaned|topped up|rinsed|tested|filled|mixed|made|set up)\b.*\b"
    r"(?:quarantine|qt|hospital|other tank|second tank)\b.*|wc \d+ ?(?:%|l) in (?:the )?(?:qt|quarantine|other tank)"
    r"|mixed \d+ ?(?:l|litres?|gal|gallons?) (?:of )?(?:salt ?water|salt)\b.*"
    r"|calibrated .*|ro (?:unit|membrane) .*|(?:tds|ec) \d+)$"
)
_PEOPLE = (
    r"(?:friend|brother|sister|neighbou?r|dad|mum|mom|mother|father|cousin|colleague|uncle|aunt|someone|somebody|"
    r"a guy|guy|bloke|lady)"
)
WHOLE_PLAN = regex(
    r"^(?:to ?do|todo|reminder|remind me|plan|planned|scheduled|note to self|shopping list|next "
    r"time)\b[: ]"
)
REPORTED = regex(
    rf"^(?:>|(?:my |a |the )?{_PEOPLE}'?s (?:tank|fish)\b|(?:my |a |the )?{_PEOPLE}\b.*\b(?:his|her|their) (?:own )?"
    r"(?:tank|fish)\b"
    r"|(?:the |a |my |this )?(?:shop|store)(?: guy| man| lady| people|keeper)? (?:say|says|said|recommends?|told"
    r"|lost|has|had)\b"
    r"|(?:the |a |my |this |some )?(?:video|forum|article|book|label|site|instructions?|directions?|internet|vet|guy"
    rf"|{_PEOPLE})"
    rf"(?: guy)? (?:say|says|said|recommends?|told|thinks?|claims?|wrote)\b"
    rf"|read (?:online|that|somewhere|chapter|about|in a)\b|saw online\b|directions:|your order\b)"
)
_SET = regex(
    r"^(?:the |my )?(?:heater|thermostat|timer|feeder|lights?|lamp|co2|flow|chiller|cooler)(?: is| was| now|'s)* "
    r"(?:set|turned|dialled|dialed|adjusted|now|on|raised|lowered)\b (?:to|at|up to|down to|for)? ?[\d.]+ ?(?:h"
    r"|hours?|c|f|degrees?|%|x a day|am|pm|x)?"
    r"(?: (?:a day|instead of \d+|daily|each day))*$"
)
_TURNED_TO = regex(
    r"^(?:turned|set|put|raised|lowered) (?:the |my )?(?:heater|thermostat|chiller|cooler)(?: up| down)? (?:to|at) "
    r"[\d.]+ ?(?:c|f|degrees?)?$"
)
_CHANGED_ELSE = regex(
    r"^(?:i )?(?:changed|swapped|replaced) (?:the |my |a )?(?:bulbs?|batter(?:y|ies)|light|lamp|mind|food|timer|name"
    r"|title|"
    r"background|position|angle|airline|check valve|lid|glass|photo|password)\b.*$"
)
_BOTTLES = regex(
    r"^(?:opened|bought|got|found|stored) (?:a |the |an )?(?:new )?(?:\d+ ?ml )?(?:bottle of |bag of |box of |pack "
    r"of |tub of )?"
    r"(?:new )?(?:conditioner|ammonia|bacteria|food|test kit|kit|fertili[sz]er|flakes|pellets)(?: bottle)?"
    r"(?:,? (?:still )?in the fridge)?$"
)
_OUT_OF_TOWN = regex(
    r"^(?:i am |i'm |we are |we're |we )?(?:away|on holiday|back home|back from "
    r"holiday)\b[^\d]*$"
)
_ALIVE = regex(
    r"^(?:i )?thought .* (?:was|were) (?:dead|gone|lost) but (?:it|he|she|they) (?:moved|swims?|lives?|(?:is|are|was"
    r"|were) "
    r"(?:alive|fine|ok|only sleeping|asleep|just moulting))$"
)
_EATS = regex(
    r"\b(?:(?:eating|eats?|ate) (?:well|normally|fine|as usual|as always|with appetite|everything|it all|all of it)"
    r"|(?:is|are|all|and) eat(?:ing)?)\b"
)
_EGGS = regex(
    r"^(?:the |my |\d+ )?[a-z]+(?: [a-z]+)? (?:laid eggs|carry(?:ing)? eggs|are carrying eggs|is carrying eggs|berried|"
    r"is berried|is pregnant|pregnant|spawned|are spawning|spawning|courting|dancing)$"
)
_GLAD = regex(
    r"^(?:(?:day off|sad day|bed time|oops|(?:no idea|do ?n.t know|not sure) why|no idea|hard to (?:tell|read)|still "
    r"in "
    r"the fridge|weather change|come on|guess what|as always|as usual|"
    r"(?:everyone|everybody|all|fish|they)(?: is| are| all)* eating|"
    r"(?:ate|eats?|eating) (?:well|normally|fine|as usual|as always|with appetite|everything|it all|all of it)|"
    r"colou?rs? (?:are )?(?:bright|good|great|fine|normal)|tonight|this (?:morning|evening)|"
    r"all (?:good|fine|ok|well|calm|there|present)|everything|nothing|rip|quiet|clear as glass|crystal clear|and|they"
    r"|the"
    r"|fish|all|everyone"
    r"|everybody|others|rest|healthy|is|are|"
    r"seem|seems|look|looks|looking|doing|so|very|really|went|crazy|for|it|happy|calm|fine|well|good|great|lively"
    r"|active|"
    r"lovely|perfect|beautiful|amazing|yay|colou?rful|ok|water|much|not much|to|report|long|day|at|work|kids|loud|tank|"
    r"yesterday|today|finally|now|still|again|light|week|with|just|sleeping|asleep)(?: |$))+$"
)
_PRODUCTS = regex(
    r"^(?:dosed |added )?(?:\d[\d.]* ?ml (?:of )?)?(?:plant food|(?:liquid )?fertili[sz]er|trace elements|iron"
    r"|potassium|"
    r"calcium|magnesium|strontium|iodine)(?: ?[\d.]+ ?(?:ml|mg|ppm)?)?(?: (?:mg|magnesium|alk) [\d.]+)?$"
)
_CARE = regex(
    r"^(?:(?:powerhead|glass|lid|cover|front|pump|skimmer cup|outlet|intake|hoses?) (?:is |was )?(?:cleaned|wiped"
    r"|scrubbed)"
    r"|(?:cleaned|wiped|scrubbed|scraped)(?: off)? (?:the |my |some )?(?:algae )?(?:off |from )?(?:the |my )?"
    r"(?:glass|lid|front|walls?|powerhead|skimmer cup|outlet|intake|impeller|pump|hoses?|heater|lights?|algae)"
    r"|(?:trimmed|pruned|replanted|fertilised|thinned|cut back) (?:the |some )?(?:plants|stems|leaves)"
    r"|(?:the )?(?:plants|stems|leaves) (?:were |are )?(?:trimmed|pruned|replanted|fertilised|thinned|cut(?: back)?)"
    r"|(?:the )?algae (?:on|off) the glass (?:cleaned|wiped|scraped)(?: off)?"
    r"|moved (?:the |my )(?:outlet|rocks?|wood|light|feeder)\b.*"
    r"|(?:the |my )?tank is \d+ (?:days|weeks|months|years) old|photos? \d+ .*"
    r"|(?:green )?algae on the (?:glass|wood|rock|plants|leaves)|tea.?colou?red water)$"
)
_LIGHTS = regex(
    r"^(?:(?:killed|turned (?:on|off)|switched (?:on|off)) the (?:tank )?lights?|(?:turned|switched|put|left) the "
    r"(?:tank )?lights? (?:on|off|out)|(?:the )?lights? (?:are |is |were |went |back )*(?:on|off|out)"
    r"(?: again| early| late)*)$"
)
_GAS = regex(
    r"^co2 (?:is |back )*(?:on|off|up|down|at|to)(?: (?:at|to))?"
    r"(?: ?[\d.]+ ?(?:bps|bubbles?(?:/s| a second| per second)?))?$"
)
_FLICKER = regex(
    r"^(?:the )?(?:power|electricity) (?:just )?(?:flickered|blinked|blipped|dipped)(?: for a second| briefly)?$"
)
_EQUIPPED = regex(
    r"^(?:\d+ ?(?:l|litres?|liters?|gal|gallons?) tank|\d+ ?(?:w|watts?) (?:heater|lights?|lamp|filter)|\d+ ?mm glass"
    r"|(?:the )?(?:[\d.]+ ?(?:l|litres?|gal|gallons?)|tank) is full now)$"
)
_ARRIVED_DEAD = regex(
    r"^(?:\d{1,2}|an?|one|all) [a-z ]+? (?:doa|dead on arrival|arrived dead|dead in the bag)$"
    r"|^(?:the )?(?:shop|store|seller) (?:refunds|refunded|credits|credited|replaces|replaced|sends new ones)"
    r"(?: them| it| me| us)?$"
)
# What a tank is made of: words about it and nothing that was done, read or lost are small talk
_TANK = words(
    "tank water glass surface sand gravel plant plants leaf leaves stem stems root roots algae moss wood "
    "driftwood rock rocks stone stones cave light lights lid cover filter pump hose heater impeller intake outlet "
    "flow bubbles fish shrimp shrimps snail snails crab crabs coral corals anemone fin fins tail tails stand "
    "window sun reflection"
)
_NO_TALK = words(
    "ammonia nitrite nitrate am ni na ph kh gh salinity temp temperature tube card strip kit reading readings "
    "test tests level levels number numbers change changes changed changing dose dosed dosing feed fed feeding "
    "fert fertiliser fertilizer conditioner dechlorinator bacteria bottle media sponge sponges carbon cartridge "
    "cartridges pads floss add added adding put took take removed remove replaced replace swapped rinsed rinse "
    "washed cleaned clean squeezed boiled boiling hot cold dry dried bought brought came come went arrived moved "
    "gave given sold swap traded returned found find counted count born hatched fry babies eggs baby body bodies "
    "shell shells empty treated used filled refill refilled topped top tap bucket poked stirred stir dug "
    "replanted planted vacuumed siphoned turned switched plugged off out power electricity current drained drain "
    "poured pour spilled spill dropped slipped overflowed overflow running runs run alarm new same last that undo "
    "ditto wrong half some few several many lot more less third quarter double full one two three four five six "
    "seven eight nine ten dozen hundred litre litres gallon gallons percent gram grams hour hours day days week "
    "weeks tomorrow yesterday tonight"
)
_HARMLESS = (
    _ALIVE,
    _SET,
    _TURNED_TO,
    _CHANGED_ELSE,
    _BOTTLES,
    _CARE,
    _OUT_OF_TOWN,
    _LIGHTS,
    _GAS,
    _FLICKER,
    _EQUIPPED,
    _ARRIVED_DEAD,
)


# In words about the tank, besides HARM: a vessel that gives way, an animal in need, something on skin or in the air
_PERIL = regex(
    r"\b(?:drip\w*|seam\w*|silicone|seal\w*|bulg\w*|bow(?:s|ed|ing)|wobbl\w*|tilt\w*|lean(?:s|ed|ing)?|wet|damp|drunk|"
    r"dizzy|trapped|tangled|caught|wedged|escap\w*|carpet|rug|outside|float\w*|s[iau]nk\w*|upside|belly|skinny|thin|split|"
    r"torn|ragged|frayed|white|red|black|grey|gray|yellow|dark\w*|fuzz\w*|fluff\w*|cotton\w*|twitch\w*|shak\w*|shiver\w*|"
    r"buzz\w*|hiss\w*|suck\w*|warm\w*|cool\w*|freez\w*|frozen|flat|limp|stiff|still|lethargic|slow\w*|tired|curled|"
    r"bent|crooked|open|shut|clos\w*|shrink\w*|shrunk\w*|melt\w*|dissolv\w*|scrap(?:e|ed|ing) (?:on|against)|rub\w*|"
    r"scratch\w*|candle|perfume|paint\w*|insects?|fumes?|oil\w*|rust\w*|dust\w*|film|scum|slim[ey]\w*|gone|empt\w*|"
    r"alone|corner|top|surface|bottom|heavy|heavily|fast|gulp\w*|shatter\w*|splinter\w*|shards?|snapp\w*|explod\w*|"
    r"burst\w*|collaps\w*|bend\w*|sag(?:s|ged|ging)?|buckl\w*|fell|fall(?:s|en|ing)?|rain\w*|prickl\w*|overflow\w*|"
    r"pierc\w*|poke[ds]?|swollen|lumps?|bumps?)\b"
)


LEAST_SAID, MOST_SAID = 3, 14  # words of small talk


def small_talk(piece: str, names: Iterable[str]) -> bool:
    """'betta flaring at its reflection', 'fish love the wood': about the tank or who lives there, and neither a number,
    a deed, a loss, a doubt nor a word of danger in it. `names`: of those who live there."""
    said = re.findall(r"[a-z']+", piece)
    if not LEAST_SAID <= len(said) <= MOST_SAID or re.search(r"\d", piece):
        return False
    if any(pattern.search(piece) for pattern in (HARM, _PERIL, BENDS)):
        return False
    about = _TANK.union(*(n.split() for n in names))
    return not about.isdisjoint(said) and _NO_TALK.isdisjoint(said)


def planned(piece: str, alone: bool) -> bool:
    """Whether the piece speaks of what is still to be done. `alone`: it is the whole line; beside others it has to name
    what it speaks of."""
    if " " not in piece or not PLAN.match(piece) or HARM.search(piece) or _DONE.match(piece):
        return False
    if readings(re.sub(r",? ?\btomorrow\b ?", "", piece)) is not None:
        return False  # a reading cannot be foretold: the day is a slip
    return alone or (bool(_OF_WHAT.search(piece)) and not _OF_ITSELF.search(piece) and not piece.startswith("planned"))


def denied(piece: str, deeds: list[str]) -> bool:
    """'not fed today', 'no deaths': of words that deny a deed or a sign and nothing more; not what a deed of the same
    line says."""
    if _NO_TEST.match(piece):
        return True
    hit = _DENIAL.match(piece)
    if hit is None:
        return False
    said = re.findall(r"[a-z']+", piece[hit.start(1) :])
    subject = re.findall(r"[a-z']+", piece[: hit.start(1)])
    if re.search(r"\bnot? (?:eating|moving|swimming|breathing)", piece):
        return False
    if not set(said) <= _DENIED or not ({*said, *subject} & _WHAT) or re.search(r"\d", hit[1].split("since")[0]):
        return False
    return not any(set(said) & set(_CONTRADICTS.get(d.split(" ")[0], ())) for d in deeds)


def other_water(piece: str) -> str:
    """'first' or 'last' where a reading is one of another water than the tank's and says so before or behind it, 'deed'
    for what was done there; '' otherwise."""
    if _OTHER_DEED.match(piece) and not re.search(r"\b(?:dead|died|lost)\b", piece):
        return "deed"
    if OTHER_OF.match(piece):
        return "first"
    for pattern, where in ((OTHER_FIRST, "first"), (OTHER_LAST, "last")):
        hit = pattern.match(piece)
        if hit is None or " tank " in f" {hit['rest']} ":
            continue
        rest = READS.sub("", hit["rest"].strip())
        if reading_elsewhere(rest) is not None or re.fullmatch(
            r"(?:tds )?[\d.]+ ?(?:ppt|c|degrees|ppm)?(?: [\d.]+ ?c)?", rest
        ):
            return where
        if re.fullmatch(r"(?:\d{1,2} ?ppt )?(?:[\d.]+ ?(?:ppt|c|°c|f|degrees?)[ ,]*)+", rest):
            return where
    return ""


_SALT = regex(r"\b(?:sal|salinity|tds) [\d.]+(?: ?sg)?(?![\w.])")


def reading_elsewhere(text: str) -> str | None:
    """Readings of another water in the shorthand, salt among them."""
    salt = _SALT.search(text)
    if salt is None:
        return readings(text)
    left = f"{text[: salt.start()]} {text[salt.end() :]}".strip(" ,")
    plain = readings(left) if left else ""
    return None if plain is None else f"{plain} {salt[0]}".strip()


def of_no_consequence(piece: str) -> bool:
    """Settings, other changes, bottles bought, what never lived in the tank, eggs, praise: nothing that the forecast or
    a verdict rests on."""
    if any(p.match(piece) for p in _HARMLESS):
        return True
    return any(p.match(piece) for p in (_EGGS, _GLAD, _PRODUCTS)) and not HARM.search(_EATS.sub("", piece))
