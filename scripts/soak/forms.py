"""Every form that the pages show, sent with something odd in one of its fields, and every address with something odd in
its place: each is answered, none with a 5xx, and the house can be looked at after it."""

from __future__ import annotations

import html
import random
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from starlette.testclient import TestClient

from scripts.soak.mutants import ODD

NUMBERS = ("0", "-1", str(2**63), "9" * 40, "٣", "1.5", "abc", "%00", "..%2f..", "1e9")
MORE = (*ODD, "x" * 5000, "\r\nX-Odd: 1", "<script>",
        "\ud800".encode("utf-8", "surrogatepass").decode("latin-1"), "1" * 5000,
        "۱۲", "0x10", "24:61", "99999-01-01", "am 0.25 " * 400, "${7*7}", "' OR 1=1 --")  # fmt: skip
FORM = re.compile(r'<form\b[^>]*method="(post|get)"[^>]*action="([^"]*)"[^>]*>(.*?)</form>', re.S)
INPUT = re.compile(r'<(?:input|select|textarea|button)\b[^>]*\bname="([^"]+)"[^>]*?(?:value="([^"]*)")?[^>]*>')
LINK = re.compile(r'(?:href|hx-get)="(/[^"#]*)"')
HEADERS = (
    {"Host": "elsewhere.invalid"}, {"Origin": "null"}, {"Origin": "http://"}, {"Referer": "::"},
    {"Content-Type": "application/x-www-form-urlencoded; charset=utf-99"}, {"Content-Type": "multipart/form-data"},
    {"Accept-Language": "\x7f"}, {"Cookie": "jb_theme=%00; jb_session=..;;"}, {"HX-Request": "true"},
)  # fmt: skip


@dataclass
class Answered:
    sent: int = 0
    by_status: dict[int, int] = field(default_factory=dict)
    fell: list[str] = field(default_factory=list)

    def take(self, what: str, status: int) -> None:
        self.sent += 1
        self.by_status[status] = self.by_status.get(status, 0) + 1
        if status >= 500:
            self.fell.append(f"{status} {what[:300]}")


def forms_of(text: str) -> Iterator[tuple[str, str, dict[str, str]]]:
    for method, action, inside in FORM.findall(text):
        fields = {html.unescape(k): html.unescape(v) for k, v in INPUT.findall(inside)}
        yield method, html.unescape(action), fields


def fuzz(http: TestClient, pages: Sequence[str], times: int, seed: int = 1) -> Answered:
    """`pages` are looked at for their forms and links anew whenever something was sent that was taken."""
    chance, told = random.Random(seed), Answered()
    while told.sent < times:
        page = chance.choice(pages)
        answer = http.get(page)
        told.take(f"GET {page}", answer.status_code)
        forms = [f for f in forms_of(answer.text) if f[1].startswith("/") or not f[1]]
        for method, action, fields in chance.sample(forms, min(4, len(forms))):
            _send(http, told, chance, method, action or page, fields)
        links = LINK.findall(answer.text)
        if links:
            odd = _oddly(html.unescape(chance.choice(links)), chance)
            told.take(f"GET {odd}", http.get(odd, headers=chance.choice(HEADERS[1:])).status_code)
    return told


def _send(
    http: TestClient, told: Answered, chance: random.Random, method: str, action: str, fields: dict[str, str]
) -> None:
    sent, name = dict(fields), ""
    if sent:
        name = chance.choice(sorted(sent))
        sent[name] = chance.choice(MORE)
    target = _oddly(action, chance) if chance.random() < 0.3 else action
    headers = chance.choice(HEADERS) if chance.random() < 0.15 else {}
    call = http.get if method == "get" else http.post
    data = {"params": sent} if method == "get" else {"data": sent}
    answer = call(target, headers=headers, follow_redirects=False, **data)  # type: ignore[operator]
    told.take(f"{method} {target} {name}={sent.get(name, '')[:60]!r} {headers}", answer.status_code)


def _oddly(path: str, chance: random.Random) -> str:
    """One part of an address, or of its query, in a way that nobody types."""
    way, mark, query = path.partition("?")
    if query and chance.random() < 0.5:
        key = query.split("&")[0].partition("=")[0]
        return f"{way}?{key}={chance.choice(NUMBERS)}"
    parts = way.split("/")
    k = chance.randrange(1, len(parts))
    parts[k] = chance.choice(NUMBERS)
    return "/".join(parts) + mark + query
