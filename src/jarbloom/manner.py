"""How numbers, days and hours are written: as chosen, else as the device's language usually has it.

Texts are made in one manner ('0.25', '28 Nov', '20:15') and put into the keeper's own as the last step: pages
(web/written.py), the mail, the calendar, the report. Tables and bundles are for programs and keep ISO dates and points.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

CLOCKS = (("24", "20:15"), ("12", "8:15 pm"))
DECIMALS = (("point", "0.25 and 1,280"), ("comma", "0,25 and 1.280"))
# Regions of the first and languages of the second (Unicode CLDR: time formats, decimal separators)
_TWELVE = "US CA AU NZ IN PH PK MY EG SA CO MX"
_COMMAS = "de fr es it pt nl pl cs sk hu ro bg ru uk tr sv nb nn no da fi is et lv lt sl hr sr el id vi"
TWELVE_HOURS, COMMA = frozenset(_TWELVE.split()), frozenset(_COMMAS.split())
POINT_REGIONS = frozenset({"CH", "LI", "MX"})
US_UNITS = frozenset({"US", "LR"})

_CLOCK = re.compile(r"(?<![\d:.,/])([01]\d|2[0-3]):([0-5]\d)(?![\d:])")
_MONTHS = "Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec"
_DAY = re.compile(rf"(?<![\d.,])(\d{{1,2}})( |\u00a0)((?:{_MONTHS})[a-z]*)\b(?:\2(20\d\d))?")
_NUMBER = re.compile(r"(?<![\w.,:/])(?:\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d+\.\d+)(?![\w:/]|[.,]\d)")
_SWAP = str.maketrans(".,", ",.")


@dataclass(frozen=True)
class Manner:
    twelve_hours: bool = False
    month_first: bool = False
    comma: bool = False

    @property
    def plain(self) -> bool:
        """Whether this is how pages are made."""
        return self == PLAIN


PLAIN = Manner()


def _language(accepted: str) -> tuple[str, str]:
    """('en', 'US') of an Accept-Language header's first wish; empty where it tells none."""
    first = accepted.split(",")[0].split(";")[0].strip()
    found = re.fullmatch(r"([A-Za-z]{2,3})(?:-[A-Za-z]{4})?(?:-([A-Za-z]{2}))?.*", first)
    return (found[1].lower(), (found[2] or "").upper()) if found else ("", "")


def usual_units(accepted: str) -> str:
    """'us' or 'metric', for a house in which nothing has been set up."""
    return "us" if _language(accepted)[1] in US_UNITS else "metric"


def manner_of(clock: str, dates: str, decimals: str, us_units: bool, language: str) -> Manner:
    """As chosen; what was not ('') is as the device's language usually has it, the order of dates as with the units.
    `language`: the Accept-Language header; '' where no device asks, as for a mail."""
    code, region = _language(language)
    region = "US" if not language and us_units else region
    usual = "comma" if code in COMMA and region not in POINT_REGIONS else "point"
    return Manner(
        (clock or ("12" if region in TWELVE_HOURS else "24")) == "12",
        dates == "month" or (not dates and us_units),
        (decimals or usual) == "comma",
    )


def text_in(text: str, manner: Manner) -> str:
    """
    >>> text_in("change 0.5 of 1,280 L by 20:15 on 28 Nov 2026", Manner(True, True, True))
    'change 0,5 of 1.280 L by 8:15 pm on Nov 28, 2026'
    """
    if manner.comma:
        text = _NUMBER.sub(lambda m: m[0].translate(_SWAP), text)
    if manner.month_first:
        text = _DAY.sub(lambda m: f"{m[3]}{m[2]}{m[1]}" + (f",{m[2]}{m[4]}" if m[4] else ""), text)
    if manner.twelve_hours:
        text = _CLOCK.sub(_half_day, text)
    return text


def _half_day(found: re.Match[str]) -> str:
    hour = int(found[1])
    return f"{hour % 12 or 12}:{found[2]} {'pm' if hour >= 12 else 'am'}"
