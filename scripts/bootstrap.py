"""Of Bootstrap's style sheet, the rules that our pages can use: written into the package, three quarters smaller.

A rule stays when each of its selectors' classes and element names stands in a template, a script or a view. Its custom
properties stay when a rule that stays reads them. Run it after a template uses a class of Bootstrap for the first time;
a test compares the file with what this makes.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
WHOLE = ROOT / "scripts" / "vendor" / "bootstrap.min.css"
WEB = ROOT / "src" / "jarbloom" / "web"
USED = WEB / "static" / "vendor" / "bootstrap.css"
WORD = re.compile(r"[A-Za-z][\w-]*")
CLASS, ELEMENT = re.compile(r"\.((?:[\w-]|\\.)+)"), re.compile(r"(?<![\w.#:\[\]\"=-])([a-z][a-z0-9]*)\b")
READS, SETS = re.compile(r"var\((--[\w-]+)"), re.compile(r"(--[\w-]+):(?:\([^)]*\)|[^;{}])*;?")


def words() -> frozenset[str]:
    """Every word of the templates, our scripts and the Python that gives classes to templates."""
    found: set[str] = set()
    sources = [*WEB.rglob("*.html"), *WEB.glob("static/*.js"), *(WEB.parent / "views").rglob("*.py")]
    for path in sources:
        found.update(WORD.findall(path.read_text("utf-8")))
    return frozenset(found)


def rules(css: str) -> Iterator[tuple[str, str]]:
    """(what stands before a brace, what stands within it) of the outermost rules."""
    at = 0
    while (opens := css.find("{", at)) >= 0:
        depth, end = 1, opens + 1
        while depth:
            depth += {"{": 1, "}": -1}.get(css[end], 0)
            end += 1
        yield css[at:opens].strip(), css[opens + 1 : end - 1]
        at = end


def stays(selector: str, known: frozenset[str]) -> bool:
    """Whether something on our pages can meet a selector."""
    bare = re.sub(r":(?:not|is|where)\([^)]*\)|\[[^\]]*\]", "", selector)
    classes = CLASS.findall(bare)
    elements = ELEMENT.findall(re.sub(r"::?[\w-]+(?:\([^)]*\))?", "", CLASS.sub("", bare)))
    return all(c in known for c in classes) and all(e in known or e in ("html", "body") for e in elements)


def kept(css: str, known: frozenset[str]) -> str:
    found = []
    for head, body in rules(css):
        if head.startswith(("@media", "@supports")):
            inner = kept(body, known)
            if inner:
                found.append(f"{head}{{{inner}}}")
        elif head.startswith("@"):
            found.append(f"{head}{{{body}}}")
        else:
            selectors = [s for s in _split(head) if stays(s, known)]
            if selectors:
                found.append(f"{','.join(selectors)}{{{body}}}")
    return "".join(found)


def _split(head: str) -> list[str]:
    """Selectors of a list; commas within parentheses are not between them."""
    return re.split(r",(?![^(]*\))", head)


def without_unread(css: str) -> str:
    """Custom properties and keyframes that nothing reads any more are left out, until nothing more falls away."""
    before = ""
    while css != before:
        before, css = css, _without_unread(css)
    return css


def _without_unread(css: str) -> str:
    read, moves = set(READS.findall(css)), " ".join(re.findall(r"animation(?:-name)?:([^;}]*)", css))
    css = SETS.sub(lambda m: m[0] if m[1] in read else "", css)
    css = re.sub(r"@keyframes ([\w-]+)\{(?:[^{}]*\{[^{}]*\})*\}", lambda m: m[0] if m[1] in moves else "", css)
    return re.sub(r"[^{}]+\{\}", "", css)


def subset() -> str:
    whole = WHOLE.read_text("utf-8")
    notice, _, css = whole.partition("*/")
    css = re.sub(r'@charset "[^"]*";|/\*.*?\*/', "", css, flags=re.S)
    return f"{notice}*/\n{without_unread(kept(css, words()))}\n"


if __name__ == "__main__":
    USED.write_text(subset(), "utf-8")
    print(f"{USED.relative_to(ROOT)}: {USED.stat().st_size} of {WHOLE.stat().st_size} bytes")
