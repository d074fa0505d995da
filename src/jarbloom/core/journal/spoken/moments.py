"""When something was done, as people say it: 'this morning', 'last night at 11pm', 'two days ago', 'Nov 20th'."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta

from jarbloom.patterns import regex

MONTHS = "jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec"
_MONTH = (r"(jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|"
          r"nov(?:ember)?|dec(?:ember)?)")  # fmt: skip
_HALF_DAYS = regex(r"\b(?:at )?(\d{1,2})(?:[:.h](\d{2}))?(?: ?(am|pm|a\.m\.|p\.m\.)|([ap])(?= |$))(?!\w)(?! ?[.\d])")
_PART_AT = regex(r"\b(this|yesterday|last) (morning|afternoon|evening|night),? at (\d{1,2})(?= ?(?:,|;|$)| [a-z])"
                      r"(?! ?(?:l|litres?|gal\w*|%|percent|pm|am|degrees?|c|f|past|to|o.clock)\b)")  # fmt: skip
_TOLD_HOUR = regex(
    r"(?<![.,\d])\b(?:at )?(?:(half past|quarter past|quarter to|a quarter to|a quarter past) )?"
    r"(\d{1,2})(?: o.?clock)? "
    r"(?:in the (morning|afternoon|evening)|at night|(?:yesterday|this|last) (morning|afternoon|evening|night))\b"
)
_FOUR = regex(r"\b([01]\d|2[0-3])([0-5]\d) (yesterday|today|mon|tue|wed|thu|fri|sat|sun)\b")
_FOUR_FIRST = regex(r"^(0\d|1\d|2[0-3])(?!(?<=20)2)([0-5]\d) (?=[a-z])")  # '0730 am .25'; 2026 is a year
_HOUR_ALONE = r"(?:^|(?<=^fed )|(?<=^wc ))at (\d{1,2})(?= [a-z\d.]|$)(?! ?(?:l|litres?|gal|%|am|pm)\b)"
AWAKE = 5  # an hour without its half of the day is no hour of the night
NOON, EVENING = 12, 18  # in the morning, an hour of the evening is that of the day before
LATE = 4  # so long after midnight one speaks of the evening as of today
_IS_AT = regex(
    r"(?:'s|\bis|\bwas|\bstill|\bammonia|\bnitrite|\bnitrate|\bph|\bkh) "
    r"$"
)  # 'nitrite is at 2 this evening'
_CLOCK = regex(r"(?:^|(?<=[\s,]))(?:at |@ ?)?(\d{1,2})[:h](\d{2})\b")
_SWAPPED = regex(r"(\d{2}:\d{2}),? (?:on )?(yesterday|mon|tue|wed|thu|fri|sat|sun)\w*\b")
_DOTTED = regex(r"\b(yesterday|mon\w*|tue\w*|wed\w*|thu\w*|fri\w*|sat\w*|sun\w*) (?:at )?(\d{1,2})\.(\d{2})\b")
_PART = r"(morning|noon|afternoon|evening|night)"
HOUR_OF = {
    "breakfast": 8,
    "lunch": 13,
    "dinner": 19,
    "morning": 8,
    "noon": 12,
    "afternoon": 15,
    "evening": 20,
    "night": 22,
}
NEAR = timedelta(days=120)  # a day and month without a year lies no further back than this
_WEEKDAY = r"(mon|tue|wed|thu|fri|sat|sun)(?:day|s|sday|nesday|rs|rsday|urday)?"
_NO_SPAN = "".join(
    f"(?<!\\b{w} )"
    for w in ("til", "till", "until", "by", "for", "next", "this", "every", "each", "on", "since", "from")
)
_DAY_OF_DATE = regex(rf"^\s*{_WEEKDAY}[ ,]+(?=\s|,|$)")
CUT = " ¦ "  # stands where a moment was taken out between words
_APART = regex(r" (?:and|then|but|while|so|because) ")  # between a day and a clock: each is of a clause of its own
Found = tuple[datetime, str]


def clocks(text: str) -> str:
    """The same words with times of day as the shorthand has them, behind their day.

    >>> clocks("6pm yesterday am 0.5"), clocks("mon 8.00 fed"), clocks("19h30 wc 20 l"), clocks("noon am .5")
    ('yesterday 18:00 am 0.5', 'mon 8:00 fed', '19:30 wc 20 l', '12:00 am .5')
    """
    text = _HALF_DAYS.sub(_of_half_days, _PART_AT.sub(_of_part_at, text.replace("this am", "this morning")))
    text = _FOUR_FIRST.sub(r"\1:\2 ", _FOUR.sub(r"\3 \1:\2", text))
    text = re.sub(r"^(?:at )?midnight (?=\w+ [.\d]|fed)", "00:00 ", text)
    text = _TOLD_HOUR.sub(_of_parts, text)
    text = _CLOCK.sub(lambda m: f"{int(m[1]):02}:{m[2]}", text)
    text = re.sub(r"(?<!this )(?<!yesterday )\b(?:at )?(?:noon|midday)\b", "12:00", text)
    text = re.sub(r"^(\d{1,2}\.\d{1,2})\. (?=[a-z])", r"on \1.: ", text)
    return _DOTTED.sub(r"\1 \2:\3", _SWAPPED.sub(r"\2 \1", text))


def _of_part_at(hit: re.Match[str]) -> str:
    """'this morning at 10', 'yesterday evening at 7': the hour in that half of the day."""
    hour, late = int(hit[3]), hit[2] in ("afternoon", "evening", "night")
    if not 1 <= hour <= 12 or (hit[2] == "night" and hour < 6):
        return hit[0]
    day = "today" if hit[1] == "this" else "yesterday"
    return f"{day} {hour % 12 + (12 if late else 0):02}:00"


def _of_half_days(hit: re.Match[str]) -> str:
    hour, minute = int(hit[1]), int(hit[2] or 0)
    if not 1 <= hour <= 12 or minute > 59:
        return hit[0]
    return f"{hour % 12 + (12 if (hit[3] or hit[4]).startswith('p') else 0):02}:{minute:02}"


def _of_parts(hit: re.Match[str]) -> str:
    """'half past 7 in the evening', 'quarter to 8 this morning': the clock, and the day where it is said."""
    hour, part = int(hit[2]), hit[3] or hit[4] or "night"
    said = (
        hit[0].startswith("at ")
        or hit[1]
        or "in the" in hit[0]
        or "clock" in hit[0]
        or not hit.string[: hit.start()].strip()
    )
    if not 1 <= hour <= 12 or not said or _IS_AT.search(hit.string[: hit.start()]):
        return hit[0]
    late = part in ("afternoon", "evening") or (part == "night" and hour >= 6)
    minutes = 60 * (hour % 12 + (12 if late else 0))
    minutes += {"half past": 30, "quarter past": 15, "quarter to": -15}.get((hit[1] or "").removeprefix("a "), 0)
    day = re.search(r"(yesterday|this|last) (morning|afternoon|evening|night)$", hit[0])
    when = {"yesterday": "yesterday ", "last": "yesterday ", "this": "today "}[day[1]] if day else ""
    return f"{when}{minutes // 60 % 24:02}:{minutes % 60:02}"


def said_moment(text: str, now: datetime, day_first: bool) -> Found | None:
    """The moment that is said, and the words without it; None where none is said, one lies ahead, or a day may be read
    two ways. What the shorthand has itself ('mon', '2026-11-20', '18:40') is left to it."""
    for pattern, read in _WAYS:
        hit = pattern.search(text)
        if hit is None:
            continue
        at = read(hit, now, day_first)
        if at is None:
            return None
        cut = CUT if text[: hit.start()].strip(" ,:") and text[hit.end() :].strip(" ,:") else " "
        rest = f"{text[: hit.start()]}{cut}{text[hit.end() :]}"
        rest = _DAY_OF_DATE.sub("", rest) if any(c.isdigit() for c in hit[0]) else rest
        clock = None if "ago" in hit[0] or ":" in hit[0] else _CLOCK.search(rest)
        if clock is not None and not _APART.search(
            rest[min(clock.start(), hit.start()) : max(clock.end(), hit.start())]
        ):
            if int(clock[1]) > 23 or int(clock[2]) > 59:
                return None
            at = at.replace(hour=int(clock[1]), minute=int(clock[2]))
            rest = f"{rest[: clock.start()]} {rest[clock.end() :]}"
        rest = rest.strip(f" ,{CUT.strip()}")
        return None if at > now else (at, " ".join(rest.split()).strip(" ,"))
    return None


def _on(day: date, hour: int, now: datetime) -> datetime:
    return datetime(day.year, day.month, day.day, hour, tzinfo=now.tzinfo)


def _today(hit: re.Match[str], now: datetime, _first: bool) -> datetime | None:
    """'this morning': eight, or now while it lasts."""
    if now.hour < LATE and hit[1] != "night":  # who is still up speaks of the day before
        return _on(now.date() - timedelta(days=1), HOUR_OF[hit[1]], now)
    usual = _on(now.date(), HOUR_OF[hit[1]], now)
    begins = {"morning": 4, "noon": 11, "afternoon": 12, "evening": 17, "night": 18}[hit[1]]
    if now.hour < begins:
        return None
    return min(usual, now)


def _meal(hit: re.Match[str], now: datetime, _first: bool) -> datetime | None:
    """'at lunchtime': today's, once it has come."""
    at = _on(now.date(), HOUR_OF[hit[1]], now)
    return at if at <= now else None


def _tonight(_hit: re.Match[str], now: datetime, _first: bool) -> datetime | None:
    return now if now.hour >= 17 or now.hour < 4 else None


def _yesterday(hit: re.Match[str], now: datetime, _first: bool) -> datetime:
    return _on(now.date() - timedelta(days=1), HOUR_OF[hit[1]], now)


def _last_night(_hit: re.Match[str], now: datetime, _first: bool) -> datetime:
    return _on(now.date() - timedelta(days=1), HOUR_OF["night"], now)


def _weekday(hit: re.Match[str], now: datetime, _first: bool) -> datetime:
    back = (now.weekday() - ("mon", "tue", "wed", "thu", "fri", "sat", "sun").index(hit[1])) % 7
    return _on(now.date() - timedelta(days=back), HOUR_OF[hit[2]], now)


def _of_month(hit: re.Match[str], now: datetime, _first: bool) -> datetime | None:
    """'on the 20th' ('the 2nd guppy' is no day): of this month, or of the last one."""
    before = now.date().replace(day=1) - timedelta(days=1)
    for month in (now.date(), before) if hit[0].startswith("on ") else (now.date(),):
        try:
            at = _on(month.replace(day=int(hit[1])), 12, now)
        except ValueError:
            continue
        if at.date() <= now.date():
            return min(at, now)
    return None


def _before_last(hit: re.Match[str], now: datetime, _first: bool) -> datetime:
    back = (now.weekday() - ("mon", "tue", "wed", "thu", "fri", "sat", "sun").index(hit[1])) % 7 or 7
    return _on(now.date() - timedelta(days=back + 7), 12, now)


def _hour_alone(hit: re.Match[str], now: datetime, _first: bool) -> datetime | None:
    """'at 3': where only one such hour of the waking day has come today."""
    hour = int(hit[1])
    hours = (hour % 12, hour % 12 + 12) if 1 <= hour <= 12 else (hour,)
    came = [h for h in hours if AWAKE <= h <= now.hour and h < 24]
    return _on(now.date(), came[0], now) if len(came) == 1 else None


def _hour_in_words(hit: re.Match[str], now: datetime, _first: bool) -> datetime | None:
    """'half past 8', '20 to 9': where only one such time of the waking day has come today."""
    minutes = {"half": 30, "quarter": 15}.get(hit[1].removeprefix("a ")) or int(hit[1])
    hour = int(hit[3])
    if not 1 <= hour <= 12 or not 1 <= minutes <= 30:
        return None
    told = [timedelta(hours=h, minutes=minutes if hit[2] == "past" else -minutes) for h in (hour % 12, hour % 12 + 12)]
    begins = _on(now.date(), 0, now)
    came = [at for t in told if timedelta(hours=AWAKE) <= t and (at := begins + t) <= now]
    return came[0] if len(came) == 1 else None


def _day_named(hit: re.Match[str], now: datetime, _first: bool) -> datetime | None:
    """'monday': the last one, today's when it is today; 'last tuesday' on a Tuesday is a week ago."""
    back = (now.weekday() - ("mon", "tue", "wed", "thu", "fri", "sat", "sun").index(hit[2])) % 7
    if hit[1] and back == 0:
        back = 7
    if hit[1] and back == 1:
        return None  # yesterday, or a week before that?
    return _on(now.date() - timedelta(days=back), 12, now) if back else now


def _day_near(hit: re.Match[str], now: datetime, _first: bool) -> datetime:
    """'yesterday' at this hour, where none is said."""
    day = now.date() - timedelta(days=1 if hit[1] == "yesterday" else 0)
    return datetime.combine(day, now.timetz())


def _clock_alone(hit: re.Match[str], now: datetime, _first: bool) -> datetime | None:
    hour, minute = int(hit[1]), int(hit[2])
    if hour > 23 or minute > 59:
        return None
    at = now.replace(hour=hour, minute=minute, second=0, microsecond=0)
    before = (now.hour < LATE and hour >= 24 - 2 * LATE) or (now.hour < NOON and hour >= EVENING)
    return at - timedelta(days=1) if at > now and before else at


def _before_yesterday(_hit: re.Match[str], now: datetime, _first: bool) -> datetime:
    return _on(now.date() - timedelta(days=2), 12, now)


def _ago(hit: re.Match[str], now: datetime, _first: bool) -> datetime:
    number = {"a": 1.0, "an": 1.0, "half an": 0.5}.get(hit[1]) or float(hit[1])
    unit = {"m": "minutes", "h": "hours", "d": "days", "w": "weeks", "f": "fortnight"}[hit[2][0]]
    if unit in ("minutes", "hours"):  # hours that really passed, also across a change of the clocks
        return (now.astimezone(UTC) - timedelta(**{unit: number})).astimezone(now.tzinfo)
    days = {"days": 1, "weeks": 7, "fortnight": 14}[unit] * number
    return now - timedelta(days=days)


def _fortnight(_hit: re.Match[str], now: datetime, _first: bool) -> datetime:
    return now - timedelta(days=14)


def _named_day(month: str, day: str, year: str | None, now: datetime) -> datetime | None:
    return _lately(int(day), MONTHS.split("|").index(month[:3]) + 1, int(year) if year else None, now)


def _lately(day: int, month: int, year: int | None, now: datetime) -> datetime | None:
    """At noon of that day: this year's, or last year's while that is near."""
    for y in (year,) if year else (now.year, now.year - 1):
        try:
            at = _on(date(y, month, day), 12, now)
        except ValueError:
            return None
        if at.date() <= now.date() and (year or now - at < NEAR):
            return min(at, now)
    return None


def _in_figures(hit: re.Match[str], now: datetime, day_first: bool) -> datetime | None:
    """'12/11', '20.11.', '20-11-2026'. Where both orders give a day that has come lately, it cannot be told."""
    a, b, y = int(hit[1]), int(hit[2]), hit[3]
    year = (2000 + int(y) if len(y) == 2 else int(y)) if y else None
    dotted = "." in hit[0]
    day_month, month_day = _lately(a, b, year, now), None if dotted else _lately(b, a, year, now)
    if day_month is not None and month_day is not None and a != b:
        return None
    if day_first or dotted:
        return day_month if day_month is not None else (month_day if b > 12 else None)
    return month_day if month_day is not None else (day_month if a > 12 else None)


def _by_hyphen(hit: re.Match[str], now: datetime, _first: bool) -> datetime | None:
    """'26-11', '11-26': a day and a month where only one order is one; '1-2' may be a range."""
    a, b = int(hit[1]), int(hit[2])
    if not hit[3] and max(a, b) <= 12:
        return None
    return _in_figures(hit, now, a > 12)


_Read = Callable[[re.Match[str], datetime, bool], datetime | None]
_TESTS = "ni|na|ph|kh|ammonia|nitrite|nitrate|temp|tested"
_NO_HOUR = r"l|litres?|liters?|gal|gallons?|g|ml|%|percent|cm|ppm|mg|dead|died|in the|yesterday|this|last"
_WAYS: tuple[tuple[re.Pattern[str], _Read], ...] = tuple(
    (regex(pattern), read)
    for pattern, read in (
        (rf"\bthis {_PART}\b", _today),
        (r"\btonight\b", _tonight),
        (r"\b(?:yesterday|last)(?: in the)? (?!night)(morning|noon|afternoon|evening)\b", _yesterday),
        (r"\b(?:last night|yesterday (?:at )?night)\b", _last_night),
        (rf"\b(?:on )?(?:the )?{_WEEKDAY} before last\b", _before_last),
        (
            r"(?:^(?:at )?|\bat )"
            rf"(half|(?:a )?quarter|\d{{1,2}}(?= past| min)|(?:5|10|20|25)(?= to \d+ (?:fed|{_TESTS})\b))"
            rf"(?: min(?:ute)?s)? (past|to) (\d{{1,2}})(?= [a-z]|,|$)(?! ?(?:{_NO_HOUR})\b)",
            _hour_in_words,
        ),
        (_HOUR_ALONE, _hour_alone),
        (rf"\b(?:on )?{_WEEKDAY} (morning|afternoon|evening|night)\b", _weekday),
        (rf"\b(?:on )?{_WEEKDAY} (breakfast|lunch|dinner)(?:time)?\b", _weekday),
        (r"\bat (breakfast|lunch|dinner)(?:time)?\b", _meal),
        (r"\b(?:the )?day before yesterday\b", _before_yesterday),
        (r"\b(half an|an?|\d+(?:\.\d+)?) ?(minutes?|mins?|hours?|hrs?|days?|weeks?|w|h|d) ago\b", _ago),
        (r"\b(?:a )?fortnight ago\b", _fortnight),
        (
            rf"\b(?:on )?{_MONTH}\.? (\d{{1,2}})(?:st|nd|rd|th)?\b(?:,? (20\d\d)\b)?",
            lambda m, now, _: _named_day(m[1], m[2], m[3], now),
        ),
        (
            rf"\b(?:on )?(?:the )?(\d{{1,2}})(?:st|nd|rd|th)? (?:of )?{_MONTH}\b\.?(?: (20\d\d)\b)?",
            lambda m, now, _: _named_day(m[2], m[1], m[3], now),
        ),
        (r"\bon the (\d{1,2})(?:st|nd|rd|th)\b", _of_month),
        (r"^(?:on )?(\d{1,2})/(\d{1,2})(?:/((?:20)?\d\d))?(?=[\s,:]|$)", _in_figures),
        (r"^(?:on )?(\d{1,2})\.(\d{1,2})\.((?:20)?\d\d)?(?=[\s,:]|$)", _in_figures),
        (r"\bon (\d{1,2})/(\d{1,2})(?:/((?:20)?\d\d))?(?=[\s,:]|$)", _in_figures),
        (r"^(\d{1,2})-(\d{1,2})(?:-((?:20)?\d\d))?(?= [a-z])", _by_hyphen),
        (
            r"^(?:on )?(20\d\d)-(\d\d)-(\d\d)(?=[\s,:]"
            r"|$)",
            lambda m, now, _: _lately(int(m[3]), int(m[2]), int(m[1]), now),
        ),
        (r"^(?:on )?(?:the )?(\d{1,2})(?:st|nd|rd|th)(?: |:)", _of_month),
        (r"\bearlier(?: today)?\b", lambda m, now, _: now),
        (rf"{_NO_SPAN}\b(?:on )?(last )?{_WEEKDAY}\b", _day_named),
        (rf"{_NO_SPAN}\b(yesterday|today)\b", _day_near),
        (r"(?:^|(?<=\s))(?:at |@ ?)?(\d{1,2}):(\d{2})\b", _clock_alone),
    )
)


_NOW = regex(r"(?:^|\b)(?:right |just )?now\b(?! (?:on|off)\b)")
_DAY = (
    r"(?:(?:yesterday|(?:mon|tue|wed|thu|fri|sat|sun)[a-z]*)(?: morning| afternoon| evening| night)?|today|"
    rf"tonight|(?:last|this) \w+|(?:{MONTHS})[a-z]* \d{{1,2}}|on the \d{{1,2}}(?:st|nd|rd|th))"
)
_TWO_DAYS = regex(rf"\b{_DAY}\b.* (?:yesterday|today)\b")
_DAY_AND_HOUR_APART = regex(rf"\d:\d\d (?!(?:on )?{_DAY}\b).*\b{_DAY}\b|\b{_DAY}\b,? (?!at \d|\d{{1,2}}:).*\d:\d")


def says_now(text: str) -> bool:
    return _NOW.search(text) is not None


def without_now(text: str) -> str:
    return " ".join(_NOW.sub(" ", text).split())


def two_days(text: str) -> bool:
    """'today ... yesterday'."""
    return _TWO_DAYS.search(text) is not None


def day_and_hour_apart(text: str) -> bool:
    """'monday fed at 8:00': one moment of one clause, or one each of two."""
    return _DAY_AND_HOUR_APART.search(text) is not None


_NAMES_A_DAY = regex(
    rf"\b(?:on|ago|{_DAY}|20\d\d-\d\d-\d\d|\d{{1,2}}(?:st|nd|rd|th))\b"
    r"|^(?:0?[1-9]|[12]\d|3[01])[./](?:0?[1-9]|1[0-2])(?:[./]\d*)?[ ,:]"
)


def hour_without_day(text: str) -> bool:
    return re.search(r"\d:\d", text) is not None and _NAMES_A_DAY.search(text) is None
