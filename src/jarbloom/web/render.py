"""Templates: the environment, and formatting filters. Templates format; they never compute."""

from __future__ import annotations

import re
from collections.abc import Hashable, Mapping
from datetime import datetime, timedelta
from secrets import token_urlsafe
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse
from jinja2 import Environment, PackageLoader, StrictUndefined, pass_eval_context, select_autoescape
from jinja2.nodes import EvalContext
from jinja2.runtime import Macro
from markupsafe import Markup, escape

from jarbloom.core.animals.names import animal_name, plural
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.readings import LABELS
from jarbloom.core.model.tank import Tank
from jarbloom.data import catalogue
from jarbloom.deeds import records
from jarbloom.deeds.desk import Desk
from jarbloom.units import figure, load_text, mg_text, percent
from jarbloom.views.drawn.standing import Drawings
from jarbloom.web import urls
from jarbloom.web.deps import ONCE, REVISION
from jarbloom.web.written import written


def in_days(now: datetime, days: int) -> str:
    """The date so many days from now, as forms send it."""
    return (now.date() + timedelta(days=days)).isoformat()


environment = Environment(
    loader=PackageLoader("jarbloom.web"),
    autoescape=select_autoescape(default=True, default_for_string=True),
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)
environment.filters["cap"] = lambda text: text[:1].upper() + text[1:]
environment.filters |= {"figure": figure, "load": load_text, "mg": mg_text, "percent": percent}
environment.globals |= {
    "url": urls,
    "kinds": KINDS,
    "labels": LABELS,
    "animal_name": animal_name,
    "plural": plural,
    "cautions": catalogue.cautions(),
    "notes": catalogue.notes(),
    "in_days": in_days,
    "terms": catalogue.terms(),
}


_drawings = Drawings()


@pass_eval_context
def drawn(how: EvalContext, macro: Macro, geometry: object, *args: Hashable, **named: Hashable) -> str:
    """What a macro draws of a geometry, drawn once as long as that geometry stands. For macros that look at nothing
    beside it."""
    key = (macro.name, args, tuple(sorted(named.items())))
    return _drawings.once(geometry, key, lambda: macro(how, geometry, *args, **named))


environment.globals["drawn"] = drawn


def explained(text: str, *keys: str) -> Markup:
    """Plain text in which the first standing of each of these words of the house opens its sentence (data/terms.toml).
    One page explains a word once."""
    asked = {" ".join(catalogue.terms()[k].word.lower().split()): catalogue.terms()[k] for k in keys}
    words = (re.escape(word).replace(r"\ ", r"\s") for word in sorted(asked, key=len, reverse=True))
    notes: dict[str, str] = {}

    def button(found: re.Match[str]) -> str:
        term = asked[" ".join(found[0].lower().split())]
        if term.key in notes:
            return found[0]
        notes[term.key] = f'<span popover id="term-{term.key}" class="jb-termnote">{escape(term.text)}</span>'
        return f'<button type="button" class="jb-term" popovertarget="term-{term.key}">{found[0]}</button>'

    html = re.sub(rf"\b(?:{'|'.join(words)})\b", button, str(escape(text)), flags=re.I)
    return Markup(html + "".join(notes.values()))


environment.filters["explained"] = explained


THEMES = ("light", "evening")


def theme_of(request: Request) -> str:
    """'light' or 'evening' as chosen on this device; 'device', its own wish, until then."""
    chosen = request.cookies.get("jb_theme", "")
    return chosen if chosen in THEMES else "device"


def on_a_phone(request: Request) -> bool:
    """By what the browser says of itself; it only decides which of two drawings comes first."""
    told = request.headers
    return told.get("sec-ch-ua-mobile") == "?1" or "Mobi" in told.get("user-agent", "")


def page(request: Request, desk: Desk, template: str, status: int = 200, /, **context: Any) -> HTMLResponse:
    """A whole page with what every page shows."""
    shown = {
        "request": request,
        "now": desk.now,
        "preferences": desk.preferences,
        "theme": theme_of(request),
        "units": desk.preferences.units,
        "species": desk.reference.species,
        "schools": desk.reference.schools,
        "demo": request.app.state.settings.demo,
        "tank_names": records.tank_names(desk),
        "tank": None,
        "here": "",
        "notice": None,
        "stands_at": "",
        "session": getattr(request.state, "session", None),
    }
    tank = context.get("tank")
    # Where a form on this page leads back to; a page that answers a form may stand at that form's address.
    shown["back"] = request.url.path if request.method == "GET" else (urls.tank(tank.slug) if tank else urls.bench())
    shown |= context
    shown["hint"] = _hint(desk, shown["here"], tank)
    revision = context.get("revision", records.newest_revision(desk, tank) if tank else None)
    html = written(environment.get_template(template).render(shown), desk.preferences.manner)
    made = _answer(html, status, revision)
    if shown["stands_at"]:
        made.headers["Content-Location"] = shown["stands_at"]
    return made


def _hint(desk: Desk, here: str, tank: Tank | None) -> str:
    told = catalogue.hints().get(here, "")
    return told if told and records.hint_due(desk, here, tank) else ""


def _answer(text: str, status: int, revision: int | None = None) -> HTMLResponse:
    """Every form that changes something is given a token of its own, by which a second sending is known (deps.once),
    and the number of the record that it was made from."""
    made_from = "" if revision is None else f'<input type="hidden" name="{REVISION}" value="{revision}">'

    def given_with(form: re.Match[str]) -> str:
        return f'{form[0]}<input type="hidden" name="{ONCE}" value="{token_urlsafe(12)}">{made_from}'

    given = _POSTED.sub(given_with, text)
    return HTMLResponse(given, status, headers={"Vary": "HX-Request-Type", "Cache-Control": "no-store"})


_POSTED = re.compile(r'<form\b[^>]*\bmethod="post"[^>]*>')


def plain_page(request: Request, template: str, status: int, context: Mapping[str, Any]) -> HTMLResponse:
    """A page for who is not signed in: it tells nothing of the house."""
    shown = {"theme": theme_of(request), **context}
    return _answer(environment.get_template(template).render(shown), status)


# What a picture taken along needs of the style sheet, in daylight colours of tokens.css.
PICTURE_STYLE = """<style>
text{font:450 12px sans-serif;fill:#10282c}text.dim{fill:#4b6168}text.end{text-anchor:end}text.b{font-weight:640}
.c-grid{stroke:#10282c;stroke-width:.6;opacity:.16}.c-axis,.c-today{stroke:#10282c;fill:none;stroke-width:1.4}
.c-over{stroke:#a01c57;fill:none}.c-over-t{fill:#a01c57}.f-load{stroke:#6a3f1c;fill:none}.c-flag{fill:#10282c}
text.c-flagt{fill:#fff}.f-range{opacity:.16;stroke:none}.f-line{fill:none;stroke-width:2}.f-ahead{stroke-dasharray:8 4}
.f-ammonia .f-range{fill:#2b3a8f}.f-nitrite .f-range{fill:#94440c}.f-nitrate .f-range{fill:#41584a}
.f-bloom .f-range{fill:#0b4a59}.f-ammonia .f-line,.f-ammonia .f-whisker{stroke:#2b3a8f}
.f-nitrite .f-line,.f-nitrite .f-whisker{stroke:#94440c}.f-nitrate .f-line,.f-nitrate .f-whisker{stroke:#41584a}
.f-bloom .f-line{stroke:#0b4a59}.f-spot{fill:#fff;stroke:#10282c;stroke-width:1.6}
.f-foretold{fill:none;stroke:#4b6168;stroke-dasharray:3 2}
.hs-line{fill:none;stroke:#10282c;stroke-width:1.7}.hs-line.second{stroke:#0b4a59;stroke-dasharray:1.5 3}
.hs-marks{fill:none;stroke:#10282c;stroke-width:5;stroke-linecap:round}.hs-before{fill:none;stroke:#4b6168;
stroke-dasharray:6 4}.hs-load,.c-living{fill:#ecc791;stroke:#6a3f1c}.hs-column{fill:#10282c}.hs-band{fill:#c9dfe3}
.hs-bars{fill:none;stroke:#4b6168;opacity:.35;stroke-width:5}.g-done,.c-fish{fill:#10282c}.g-plan{fill:#fff;stroke:#10282c}
.c-over-fill{fill:#f6d7e3}.c-over-line{stroke:#a01c57}.c-struck{stroke:#10282c;stroke-width:1.6;fill:none}
.c-water{fill:#c9dfe3}.hs-best{fill:#0b4a59;opacity:.1}.c-best{fill:none;stroke:#0b4a59;stroke-width:2}
text.mid{text-anchor:middle}.c-lane{stroke:#c5cfcd;fill:none}.q-band{fill:#4b6168;opacity:.28}</style>"""


def picture(desk: Desk, template: str, /, **context: Any) -> str:
    """An SVG that stands by itself, with its style inside."""
    drawn = environment.get_template(template).render(context | {"style": PICTURE_STYLE}).strip() + "\n"
    return written(drawn, desk.preferences.manner)


def fragment(desk: Desk, template: str, status: int = 200, /, **context: Any) -> HTMLResponse:
    shown = {
        "now": desk.now,
        "preferences": desk.preferences,
        "units": desk.preferences.units,
        "species": desk.reference.species,
        "schools": desk.reference.schools,
    }
    html = written(environment.get_template(template).render(shown | context), desk.preferences.manner)
    return _answer(html, status)
