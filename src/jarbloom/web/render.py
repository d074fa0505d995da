"""Templates: the environment, and formatting filters. Templates format; they never compute."""

from __future__ import annotations

from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse
from jinja2 import Environment, PackageLoader, StrictUndefined, select_autoescape

from jarbloom.core.log.kinds import KINDS, animal_name, plural, words
from jarbloom.core.log.readings import LABELS
from jarbloom.data import catalogue
from jarbloom.deeds.desk import Desk
from jarbloom.store import tanks
from jarbloom.units import figure, load_text, mg_text, percent
from jarbloom.web import urls

environment = Environment(
    loader=PackageLoader("jarbloom.web"),
    autoescape=select_autoescape(default=True, default_for_string=True),
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)
environment.filters |= {"figure": figure, "load": load_text, "mg": mg_text, "percent": percent}
environment.globals |= {
    "url": urls,
    "kinds": KINDS,
    "labels": LABELS,
    "entry_words": words,
    "animal_name": animal_name,
    "plural": plural,
    "cautions": catalogue.cautions(),
}


def page(request: Request, desk: Desk, template: str, status: int = 200, /, **context: Any) -> HTMLResponse:
    """A whole page with what every page shows."""
    shown = {
        "request": request,
        "now": desk.now,
        "preferences": desk.preferences,
        "units": desk.preferences.units,
        "species": desk.reference.species,
        "schools": desk.reference.schools,
        "demo": request.app.state.settings.demo,
        "tank_names": [(t.slug, t.name) for t in tanks.all_tanks(desk.conn)],
        "tank": None,
        "here": "",
        "notice": None,
    }
    text = environment.get_template(template).render(shown | context)
    return HTMLResponse(text, status, headers={"Vary": "HX-Request-Type", "Cache-Control": "no-store"})


def fragment(desk: Desk, template: str, status: int = 200, /, **context: Any) -> HTMLResponse:
    shown = {
        "now": desk.now,
        "preferences": desk.preferences,
        "units": desk.preferences.units,
        "species": desk.reference.species,
    }
    text = environment.get_template(template).render(shown | context)
    return HTMLResponse(text, status, headers={"Vary": "HX-Request-Type", "Cache-Control": "no-store"})
