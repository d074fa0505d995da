"""What was done to water, food, filter, bed and machines, and what failed, in the words of the log line.

Each way of saying it is a pattern that has to hold every word; what is left over is not understood here and is asked
about. A pattern that could mean two things has no place in this table.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import datetime, timedelta

from jarbloom.core.journal.spoken.numbers import count_in_words
from jarbloom.core.journal.spoken.readings import ABOUT, NUM, Said
from jarbloom.patterns import regex
from jarbloom.units import KG_PER_LB

_AMOUNTS = {"half": "50", "a half": "50", "1/2": "50", "a third": "33.3", "1 third": "33.3", "1/3": "33.3",
            "a quarter": "25", "quarter": "25", "1/4": "25", "third": "33.3", "2 thirds": "66.7", "2/3": "66.7",
            "3 quarters": "75", "3/4": "75", "a fifth": "20", "1/5": "20", "a tenth": "10", "1/10": "10",
            "1 quarter": "25", "1 half": "50", "1 fifth": "20", "all": "100"}  # fmt: skip
_SHARE = "|".join(re.escape(k) for k in sorted(_AMOUNTS, key=len, reverse=True) if k != "all")
LITRES = r"(?:l|litres?|liters?|gal|gallons?|ml)"
_OF_WATER = r"(?: of)?(?: the| its| tank| old| it)*(?: water| tank| aquarium)?"
_ONE_OR_TWO = rf"{NUM}(?:-{NUM})?"
AMOUNT = (
    rf"(?:{ABOUT})?(?P<amount>{_ONE_OR_TWO} ?(?:%|percent|per cent|pct)|{_ONE_OR_TWO} ?{LITRES}|(?:{_SHARE})(?![\w/]))"
)
_TWO_AMOUNTS = regex(
    rf"(?P<between>\bbetween )?(?<![\d.,])(?P<low>{NUM}) ?(?P<its>%|{LITRES}|g(?:rams?)?)? ?"
    r"(?:to|or|(?P<and>and)|-|–) ?"
    rf"(?P<high>{NUM}) ?(?P<unit>%|percent|per cent|pct|{LITRES}|g(?:rams?)?)(?![a-z])"
)
_DONE = r"(?: (?:done|today|now|again|just now|already|tonight))*"
FOOD = (
    r"(?:flakes?|pellets?|granules?|frozen|live|dry|food|bloodworms?|brine shrimp|daphnia|artemia|mysis|wafers?|algae|"
    r"cubes?|peas?|cucumber|courgette|zucchini)"
)
DEVICE = r"(skimmer|skim|uv|u v|carbon|ozone|pump|filter)(?: lamp| sterili[sz]er)?"
_AGAIN = r"(?: (?:again|overnight|now|suddenly|this time))*"
_THE = r"(?:the |my |our )?"
MEDIA = r"(?:filter )?(?:sponges?|media|foams?|floss|pads?|cartridges?|wool|mats?)"
PART = r"(?P<part>half|a third|a quarter|1/3|1/2|1/4|all|both|\d{1,3} ?(?:%|percent)|1 of (?:the )?[2-9])"
TANK_WATER = (
    r"(?:in (?:a|the) bucket )?(?:in|with) (?:a bucket of |a bowl of |a bit of |some |old |the |siphoned )*"
    r"(?:tank|aquarium) water"
)
TAP_WATER = r"(?:under the tap|in tap water|with tap water|under tap water|under the (?:cold |hot )?tap)"
FEEDERS = (
    r"(?:wife|husband|partner|son|daughter|kids?|sitter|mum|mom|dad|sister|brother|girlfriend|boyfriend|flatmate|"
    r"room ?mate|neighbou?r|helper|friend|grandma|grandpa)"
)
WHO_FEEDS = (
    rf"(?:(?:my |the |our )?{FEEDERS} "
    r"(?:has |have |just |also )?(?:already )?)?"
)
_MEANWHILE = r"(?: (?:while|when) (?:i|we) (?:was|were) (?:out|away|gone|at work|not (?:at )?home))?"
_DAYS = {"mon": 0, "tue": 1, "wed": 2, "thu": 3, "fri": 4, "sat": 5, "sun": 6}
_UNTIL = (
    r"(?: for (?P<hours>\d{1,3}) ?(?:h|hours|hrs)| (?:for )?(?P<days>\d{1,2}) ?(?:d|days?)"
    r"| (?:til|till|until) (?P<day>mon|tue|wed|thu|fri|sat|sun)\w*)?"
)


def amount_of(text: str) -> str:
    """'a third', '20 percent', '1 of 3', 'both' in the shorthand."""
    if text in _AMOUNTS:
        return f"{_AMOUNTS[text]}%"
    if (of := re.fullmatch(r"1 of (?:the )?([2-9])", text)) is not None:
        return f"{100 / int(of[1]):.1f}%"
    return re.sub(r" ?(?:percent|per cent|pct|%)", "%", text.replace("both", "100%"))


def _changed(m: re.Match[str]) -> str:
    return f"wc {amount_of(m['amount'])}"


def _part(word: str) -> Callable[[re.Match[str]], Said]:
    def told(m: re.Match[str]) -> Said:
        part = m.groupdict().get("part")
        return f"{word} {amount_of(part)}" if part else word

    return told


def _fed(text: str) -> bool:
    """'gave' alone is no feeding; with a number it is counted food ('3 pellets'), never grams."""
    return "gave" not in text or bool(re.search(rf"{FOOD}|them (?:a|some|just) ", text))


def _switched(m: re.Match[str], way: str, device: str, today: int) -> Said:
    told = m.groupdict()
    name = {"skim": "skimmer"}.get(device, device.replace(" ", ""))
    days = told.get("days")
    if told.get("hours"):
        if int(told["hours"]) % 24:
            return None
        days = str(int(told["hours"]) // 24)
    if told.get("day"):
        days = str((_DAYS[told["day"]] - today - 1) % 7 + 1)
    if days and way == "on":
        return None
    return f"{way} {name}{f' {days}d' if days else ''}"


_CANISTER = r"(?:(?:,? (?:the )?filter is a canister|,? canister(?: filter)?)()|())"
_FAIL = r"(?:died|dead|quit|failed|stopped(?: working)?|broken?|broke(?: down)?|gave up|not working|not running)"
_FAULTS: tuple[tuple[str, str], ...] = (
    (rf"{_THE}(?:heater|thermostat) (?:is |was |got |seems )*(?:stuck on|stuck|won.t (?:switch|turn) off|runs "
     r"on)", "heater stuck"),
    (rf"{_THE}heater (?:is |was |has |seems )*(?:{_FAIL}|not heating|dead)", "heater dead"),
    (r"(?:dead|broken) heater", "heater dead"),
    (rf"{_THE}(?:cracked heater(?: tube| glass)?|heater(?: tube| glass)? (?:is |has )?cracked|broken heater "
     r"glass)", "heater cracked"),
    (rf"{_THE}(?:canister |internal |external )?(?:filter|canister) (?:is |was |has |seems )*"
     rf"(?:{_FAIL}|clogged|blocked|(?:is )?running dry|runs dry|hardly (?:flows|runs)|stuck)", "filter"),
    (rf"{_THE}(?:air ?pump|air stone|powerhead|return pump|return|circulation pump|wave ?maker|pump) (?:is |was |has "
     rf")*{_FAIL}", "pump"),
    (r"(?:dead|broken) (?:air ?pump|pump|powerhead|return pump)", "pump"),
    (r"(?:there is |there's |found )?(?:a )?(?:small |slow |big )?(?:leak|puddle)(?: at| from| under| by| in)?(?: "
     r"the| my)?"
     rf"(?: (?!test|check|pass|detect|fix|free|proof|light|roof|kitchen|bath|street|garden|garage|car)[a-z]+){{0,3}}"
     rf"(?: (?:lost |about )+{NUM} ?{LITRES})?"
     rf"|{_THE}(?:tank|hose|filter|canister) (?:is "
     r")?(?:leaking|leaks|slipped)|water on the floor", "leak"),
    (r"(?:the )?(?:breaker|fuse|rcd|gfci|switch) (?:has |had |was )?tripped", "tingle"),
    (r"(?:felt |got |i felt |i got )?(?:a )?(?:tingle|tingling|shock|electric shock)"
     r"(?: when i (?:touched|put my hand in|reached into) (?:the )?(?:water|tank)| from the (?:water"
     r"|tank))?", "tingle"),
    (rf"{_THE}(?:light timer|timer|lights?|lamp) (?:is |was |has )*{_FAIL}", "light"),
    (rf"{_THE}(?:ato|auto top.?off|top.?off|float (?:valve|switch)) (?:is |was |got )*(?:stuck(?: open| on)?|ran on"
     r"|overfilled)", "topoff"),
)  # fmt: skip
_COMPILED_FAULTS = tuple((regex(rf"(?:{p}){_AGAIN}"), word) for p, word in _FAULTS)

_THING = (
    r"(?:almond |oak )?(?:leaf|leaves)|driftwood|wood|root|moss ball|moss|anubias|java fern|ferns?|plants?|"
    r"bunch(?:es)? of [a-z ]*plants|stem plants?|sword plants?|stones?|ornament|cave|decor|sand|gravel|alder cones?"
)
_MEDICINE = regex(
    r"day \d+ of (?:the |my )?(?:treatment|course)"
    r"|treat(?:ed|ing) (?:(?:them|it|all|everyone|everybody|(?:the|my) [a-z]+) )?(?:with [a-z-]+(?: [a-z-]+)? )?"
    r"(?:for|against) (?:the )?(?:white ?spot|ich|ick|worms?|flukes?|fungus|fin ?rot|velvet|parasites?|planaria|hydra"
    r"|columnaris|dropsy)"
    r"|(?!(?:for|of|with|to|because|after|before) )(?:(?:dosed|gave|added|used|started|starting|(?:1st|first|2nd"
    r"|second|3rd|third|last|another) dose of|day \d+ "
    r"of) )?(?:the )?"
    r"(?:[a-z]+ ){0,3}(?:medicine|medication|meds|dewormer|antibiotics?)(?: .*)?"
)
_NO_MEDICINE = regex(
    r"\b(?:no|not|never|without|need|needed|finished|ended|stopped|bought|ordered|out|maybe|should|if|will|want|says"
    r"|bottle|cabinet|chest|box|shelf|empty|cat|dog)\b"
)

_TABLE: tuple[tuple[re.Pattern[str], Callable[[re.Match[str]], Said]], ...] = tuple(
    (regex(pattern), plain)
    for pattern, plain in (
        (r"(?:(?:did|made|had|gave it|gave them|gave the tank) )?(?:my |the )?(?:a |weekly |usual "
         rf")*{AMOUNT}{_OF_WATER} ?"
         rf"(?:water ?change|wc|changed?|swapped){_DONE}", _changed),
        (r"(?:\d{1,2}|an?|one|the) [a-z ]+? jumped and was put back", lambda m: f"saw {count_in_words(m[0])}"),
        (r"changed (\d),(\d{3}) ?ml(?: of water)?", lambda m: f"wc {m[1]}{m[2]} ml"),
        (r"changed (?P<amount>[1-4]/[2-5])", lambda m: None),  # a half, or from one to two?
        (r"(?:did a |did |did my |a )?(?:weekly |usual )?(?:water ?changed?|wc|changed?|swapped(?: out)?"
         rf"|exchanged){_DONE} ?"
         rf"(?:of |out )?{AMOUNT}{_OF_WATER}{_DONE}", _changed),
        (rf"changed (\d) ?x ?({NUM}) ?(?:l|litres?)", lambda m: f"wc {int(m[1]) * float(m[2].replace(',', '.')):g} l"),
        (rf"did (\d) ?x ?({NUM}) ?(?:l|litres?)", lambda m: f"wc {int(m[1]) * float(m[2].replace(',', '.')):g} l"),
        (r"fed (?:the )?(?:fry|babies|young ones)", lambda m: "fed"),
        (rf"(?:ammonia dose|dosed? again)(?: of)? ({NUM}) ?(?:mg/l|ppm)|({NUM}) ?(?:mg/l|ppm) (?:of )?ammonia added",
         lambda m: f"dose {m[1] or m[2]} mg/l"),
        (rf"{NUM} cap(?:ful)?s? (?:of )?(?:conditioner|dechlorinator)", lambda m: "cond"),
        (rf"conditioner that (?:also )?binds ammonia,? ({NUM}) ?ml", lambda m: f"detox {m[1]} ml"),
        (rf"(?:put in|added) ({NUM}) ?(?:kg|lbs?) (?:of )?dry rock", lambda m: f"new decor {m[0]}"),
        (rf"(?:did )?a ({NUM} ?(?:%|percent))(?: (?:wc|water change))? on the \d+ ?(?:g|gal|gallons?|l|litres?)?",
         lambda m: f"wc {amount_of(m[1])}"),
        (rf"changed ({NUM}) ?(?:lbs?|pounds) of water",  # a litre of it weighs a kilogram
         lambda m: f"wc {float(m[1].replace(',', '.')) * KG_PER_LB:.4g} l"),
        (r"(?:got around to |did )?(?:vacuuming|siphoning|stirring) the (?:gravel|sand|bed|substrate)",
         lambda m: "bed"),
        (rf"(?:took|drained|siphoned|carried) (?:out )?(\d{{1,2}}) buckets? of ({NUM}) ?(?:l|litres?|liters?)"
         r"(?: of water)?(?: out)?,? (?:and |then )*(?:put|filled|refilled|poured)(?: up| in)?(?: the same)?(?: in)?"
         r"(?: of)?(?: with)?(?: fresh| new| conditioned)+(?: water)?(?: back)?(?: in)?",
         lambda m: f"wc {int(m[1]) * float(m[2].replace(',', '.')):g} l"),
        (rf"(?:wc|water ?change|changed) {NUM} ?%,? ?(?:=|that is|so) ?({NUM}) ?(l|litres?)()()",
         lambda m: f"wc {m[1]} l"),
        (rf"(?:wc|water ?change|changed) {NUM} ?% ?\(({NUM}) ?(l|litres?)\)|{NUM} ?% \(({NUM}) ?(l|litres?)\) "
         r"(?:changed|wc|water change)",
         lambda m: f"wc {m[1] or m[3]} l"),
        (rf"changed ({NUM}) ?(gal|gallons?|l|litres?) of the \d+ ?(?:gal|gallons?|l|litres?"
         r"|litre)", lambda m: f"wc {m[1]} {m[2]}"),
        (rf"({NUM}) ?(l|litres?|liters?|gal|gallons?) out,? ?(?:and )?({NUM}) ?(?:l|litres?|liters?|gal|gallons?) in",
         lambda m: f"wc {m[1]} {m[2]}" if m[1] == m[3] else None),
        (rf"(\d{{1,2}}) (?:buckets?|jugs?|cans?) of ({NUM}) ?(?:l|litres?|liters?)(?: of water)? (?:changed|out)",
         lambda m: f"wc {int(m[1]) * float(m[2].replace(',', '.')):g} l"),
        (rf"({NUM}) ?(l|litres?|gal|gallons?) (?:of )?(?:fresh|ro|rodi)(?: water)? went "
         r"in", lambda m: f"top {m[1]} {m[2]}"),
        (rf"(\d{{1,2}}) ?x ?({NUM}) ?(?:l|litres?) buckets? (?:changed|out and (?:back )?in(?: fresh)?)",
         lambda m: f"wc {int(m[1]) * float(m[2].replace(',', '.')):g} l"),
        (rf"(?:topped|top|topping)(?: it| them| the tank)?[ -]?(?:up|off)(?: it)?(?: with| by)?"
         rf"(?: (?:fresh|ro|rodi|osmosis|distilled)(?: water)?,?)?(?: {ABOUT[:-2]})? ?"
         rf"({_ONE_OR_TWO}) ?({LITRES})"
         r"(?: of)?(?: fresh| ro| rodi| water| distilled)*", lambda m: f"top {m[1]} {m[2]}"),
        (rf"{WHO_FEEDS}fed (?:the |them |all |my )*(?:{ABOUT})?({_ONE_OR_TWO}) ?g(?:rams?)?(?: of)?"
         r"(?: (?:dry )?(?:flakes?|pellets?|granules?|food))?",
         lambda m: f"fed {m[1]} g"),
        (rf"(?:the )?(?:fry|fish|tank|babies|they were|all) fed{_DONE}", lambda m: "fed"),
        (rf"(?:only |just |i |already )*{WHO_FEEDS}(?:fed|gave)(?: (?:the fish|fish|them|the tank|everyone|all|their"
         rf"|(?:{NUM} ?ml|{NUM} (?:scoops?|pinch(?:es)?|sheets?))(?: of)? {FOOD}|the|some|a|little|small|usual|"
         rf"normal|ration|pinch|of|as usual|a bit|bit|\d{{1,2}} {FOOD}|{NUM} cubes?|{FOOD}|and|with|lightly|well|"
         rf"each|apiece))*"
         rf"{_MEANWHILE}",
         lambda m: "fed" if _fed(m[0]) else None),
        (rf"{_THE}(?:power|electricity)(?: was| went)? ?(?:out|off|cut|outage|down|failure)(?: for)?"
         rf"(?: {ABOUT[:-2]})? ?({NUM}) ?"
         rf"(?:h|hrs?|hours?){_CANISTER}", lambda m: f"power {m[1]} h{' closed' if m[2] is not None else ''}"),
        (rf"{_THE}(?:power|electricity)(?: was| went)? ?(?:out|off|cut|outage|down)(?: for)?(?: {ABOUT[:-2]})? "
         r"(\d{1,3}) ?min(?:ute)?s?", lambda m: f"power {int(m[1]) / 60:.2f} h"),
        (r"(?:the )?(?:power|electricity) (?:is |was |came )?back(?: on)? after (\d{1,3}) ?min(?:ute)?s?",
         lambda m: f"power {int(m[1]) / 60:.2f} h"),
        (rf"(?:the )?(?:power|electricity) (?:is |was |came )?back(?: on)? after ({NUM}) ?(?:h|hrs?|hours?)",
         lambda m: f"power {m[1]} h"),
        (rf"(?:gave )?{_THE}(?:filter|canister)? ?(?:a )?(?:good )?(?:rinse[d]?|cleaned|squeezed|washed|wash)(?: "
         rf"out)? {TANK_WATER}",
         lambda m: "media tank"),
        (rf"(?:i )?(?:rinsed|cleaned|squeezed|washed)(?: out)? (?:the |my |filter )*(?:{MEDIA}|filter|canister)"
         r"(?: out)?", lambda m: "media"),  # in which water, is asked
        (r"(?:can't|cannot|can not|could not|couldn't) (?:find|see) (?:the|my) (?!other)[a-z ]+[a-rt-z]",
         lambda m: f"saw {m[0]}"),  # of one animal; several are asked about
        (r"something (?:is |seems |looks )?(?:off|wrong|not right|odd|strange)"
         r"(?: (?:with|about) (?:the |my )?[a-z ]+)?", lambda m: f"saw {m[0]}"),
        (rf"{MEDIA} {TANK_WATER}", lambda m: "media tank"),
        (r"(?:vacuumed|siphoned|gravel.?vac(?:ed|uumed)?)(?: too| as well| also)", lambda m: "bed"),
        (rf"new {MEDIA}|old {MEDIA} thrown (?:out"
         r"|away)", lambda m: "media replaced" if re.search(r"cartridge|media", m[0]) else None),
        (rf"(?:vacuumed|siphoned|gravel.?vac(?:ed|uumed)?|hoovered|stirred|cleaned|raked)(?: up)?(?: {PART})?(?: "
         r"of)?(?: the)? "
         r"(?:bed|sand|gravel|substrate|bottom)(?: a bit| lightly| by (?:accident|mistake)"
         r"| accidentally)?", _part("bed")),
        (r"(?:the )?(?:new water )?(?:was )?(?:dechlorinated|conditioned)(?: first)?|(?:put in |added |used "
         r"|dosed )(?:the )?(?:conditioner|dechlorinator)"
         r"(?: first)?", lambda m: "cond"),
        (rf"(?:dosed?|added) (?:the )?(?:ammonia )?({NUM}) ?(?:mg/l|ppm|mg per l(?:it(?:re|er))?|milligrams? per lit"
         r"(?:re|er))(?: of)?(?: ammonia)?",
         lambda m: f"dose {m[1]} mg/l"),
        (rf"(?:dosed? |added )?({NUM}) ?g(?:rams?)? (?:of )?(?:nh4cl|ammonium "
         r"chloride)", lambda m: f"dose nh4cl {m[1]} g"),
        (rf"(?:dosed? )?(?:nh4cl|ammonium chloride) ({NUM}) ?g(?:rams?)?", lambda m: f"dose nh4cl {m[1]} g"),
        (rf"(?:dosed? |added )?({NUM}) ?mg (?:of )?(?:nh4cl|ammonium "
         r"chloride)", lambda m: f"dose nh4cl {float(m[1]) / 1000:g} g"),
        (rf"(?:added |put in )?(?:{NUM} ?(?:kg|lbs?|pounds?|kilos?) (?:of )?(?:cured )?live rock|live rock {NUM} ?"
         r"(?:kg|lbs?|pounds?|kilos?))(?: (?:in|added|went in|from the shop))?",
         lambda m: _rock(m[0])),
        (r"(?:the )?(?:bacteria )?bottle (?:of bacteria )?was frozen(?: when it (?:came|arrived))?",
         lambda m: "bac frozen"),
        (rf"(?:(?:squirted|added|dosed|used|put in) )?(?:{NUM} ?(?:ml|g|drops?) (?:of )?)?(?:algae remover|algaecide"
         r"|clarifier|ph (?:up|down)|"
         rf"baking soda|peroxide|water clearer|sludge remover)(?: {NUM} ?(?:ml|g"
         r"|drops?))?", lambda m: f"new product {m[0]}"),
        (rf"(?:an? |some |the |\d{{1,2}} )?(?:new |more |another )?(?:{_THING}) (?:was |were )?(?:added|put in|"
            rf"planted)",
         lambda m: f"new plants {m[0]}" if _plants(m[0]) else f"new decor {m[0]}"),
        (rf"(?:added|put in|new|in) (?:an? |some |the |\d{{1,2}} )?(?:new |more |another |bag of )?(?:{_THING})"
         rf"(?: and (?:an? |some |\d{{1,2}} )?(?:{_THING}))?(?: "
         r"in)?", lambda m: f"new plants {m[0]}" if _plants(m[0]) else f"new decor {m[0]}"),
    )
)  # fmt: skip
_SWITCH = (
    (regex(rf"(?:turned |switched |put )?{_THE}{DEVICE} (?:is |was |turned |switched |back )*(on|off|out)(?: "
                rf"again)?{_UNTIL}"), 1, 2),
    (regex(rf"(?:turned|switched|switch|turn)(?: back)? (on|off) {_THE}{DEVICE}(?: again)?{_UNTIL}"), 2, 1),
)  # fmt: skip
_BACK_IN = regex(
    rf"put {_THE}carbon back|(?:put )?{_THE}carbon (?:is )?back in"
    rf"(?: the filter)?(?: after the course was done)?|(?:(?:a )?new bag of |new "
    r"|fresh )?carbon in|(?:replaced|renewed|changed) (?:the |my )?carbon"
)
_OUT_OF_IT = regex(r"(?:removed|took out) (?:the )?carbon|took (?:the )?carbon out|carbon removed")
_TWO_OFF = regex(rf"{DEVICE} and {DEVICE} (off){_UNTIL}")
_SWITCHES = regex(rf"{DEVICE} (on|off)(?: |, |$)")


def _plants(text: str) -> bool:
    return bool(re.search(r"moss|anubias|fern|plant", text))


def _rock(text: str) -> Said:
    found = re.search(rf"({NUM}) ?(kg|lb|pound|kilo)", text)
    unit = {"pound": "lb", "kilo": "kg"}
    return f"rock {found[1]} {unit.get(found[2], found[2])}" if found else None


_OUT = regex(
    r"(?:the )?(?:power|electricity)(?: was| went)? ?(?:outage|out|off|cut|failure) (?:from |between )?"
    r"(\d{1,2})(?::(\d\d))? (?:to|till|until|and"
    r"|-) "
    r"(\d\d):(\d\d)"
)


def outage(text: str, now: datetime) -> tuple[datetime, str] | None:
    """'power out 23:00 to 4:00': when it began, and its hours in the shorthand; of the last day in which it ended."""
    hit = _OUT.fullmatch(text)
    if hit is None or int(hit[1]) > 23 or int(hit[3]) > 23 or int(hit[4]) > 59:
        return None
    hour = int(hit[1])
    if hit[2] is None and int(hit[3]) >= 12 and hour < 12 and hour + 12 <= int(hit[3]):
        hour += 12  # 'from 2 to 5 pm'
    end = now.replace(hour=int(hit[3]), minute=int(hit[4]), second=0, microsecond=0)
    end = end if end <= now else end - timedelta(days=1)
    begin = end.replace(hour=hour, minute=int(hit[2] or 0))
    begin = begin if begin < end else begin - timedelta(days=1)
    return begin, f"power {(end - begin).total_seconds() / 3600:.4g} h"


def switches(text: str, today: int) -> Said:
    """'uv off carbon on', 'uv and skimmer off til sunday'. `today`: weekday, 0 is Monday."""
    two = _TWO_OFF.fullmatch(text)
    if two is not None:
        told = [_switched(two, "off", two[k], today) for k in (1, 2)]
        return " ".join(t for t in told if t) if all(told) else None
    hits = list(_SWITCHES.finditer(text))
    if len(hits) < 2 or "".join(h[0] for h in hits) != text:
        return None
    return " ".join(f"{h[2]} {h[1].replace(' ', '')}" for h in hits)


def _two_amounts(m: re.Match[str]) -> str:
    """'20 to 25 litres' as '20-25 litres', where both are of one unit."""
    its, unit = m["its"], m["unit"]
    if (its and its[0] != unit[0]) or (m["and"] and not m["between"]):
        return m[0]  # '20 l and 30 l' are two
    return f"{m['low']}-{m['high']} {unit}"


def deed(piece: str, today: int, us: bool) -> Said:
    """The piece in the shorthand where it tells of one thing done or one that failed, and of nothing else."""
    if us:  # who counts in gallons writes 'g' for them where water is moved
        piece = re.sub(rf"^((?:wc|change|changed|top off|topped off|topped up)(?: \w+)? {NUM}) ?g\b", r"\1 gal", piece)
        piece = re.sub(rf"^({NUM}) ?g(?= (?:wc|water change))", r"\1 gal", piece)
    piece = _TWO_AMOUNTS.sub(_two_amounts, piece)
    for pattern, plain in _TABLE:
        hit = pattern.fullmatch(piece)
        if hit is not None:
            if (told := plain(hit)) is not None:
                return told
            break
    for pattern, of, way in _SWITCH:
        hit = pattern.fullmatch(piece)
        if hit is not None and (hit[way] != "out" or hit[of] == "carbon"):
            return _switched(hit, "off" if hit[way] == "out" else hit[way], hit[of], today)
    if _BACK_IN.fullmatch(piece):
        return "on carbon"
    if _OUT_OF_IT.fullmatch(piece):
        return "off carbon"
    for pattern, word in _COMPILED_FAULTS:
        if pattern.fullmatch(piece):
            return f"fault {word} {piece}"
    if " " in piece and _MEDICINE.fullmatch(piece) and not _NO_MEDICINE.search(piece.replace("as the vet said", "")):
        return f"medicine {piece}"
    return None
