"""The fragments that answer while a set-up form is typed in: drawing, figures, or what is wrong, at its field."""

from __future__ import annotations

from collections.abc import Mapping

from fastapi.responses import HTMLResponse

from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.shapes import SHAPES
from jarbloom.deeds import keep_tank
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.views.drawn.vessel import VesselLook, vessel_look
from jarbloom.web.forms.fields import Errors
from jarbloom.web.forms.tank import read_tank
from jarbloom.web.render import fragment

LEAST_PX_CM, MOST_PX_CM = 0.2, 40.0


def _scale(typed: Mapping[str, str]) -> float | None:
    """The scale to hold while a size is dragged, None to fit."""
    try:
        held = float(typed.get("draw_scale", ""))
    except ValueError:
        return None
    return held if LEAST_PX_CM <= held <= MOST_PX_CM else None


def volume_of(tank: Tank, desk: Desk, px_per_cm: float | None = None) -> VesselLook:
    return vessel_look(tank, desk.preferences.units, SHAPES[tank.shape].needs, px_per_cm)


def volume_fragment(desk: Desk, base: Tank | None, typed: Mapping[str, str]) -> HTMLResponse:
    """The drawing for what is typed now; with errors it says what is wrong and draws nothing."""
    start = base or Tank("new", desk.now.date())
    tank, errors = read_tank(typed, desk, start, ("volume",))
    shape = typed.get("shape", "box")
    needs = SHAPES[shape].needs if shape in SHAPES else SHAPES["box"].needs
    if tank is not None:
        try:
            keep_tank.check(tank, desk)
            look = volume_of(tank, desk, _scale(typed))
            return fragment(desk, "parts/volume_look.html", look=look, problems=(), needs=needs)
        except Refused as problem:
            errors = Errors()
            errors.add(problem)
    found = tuple(errors.by_field.items())
    return fragment(desk, "parts/volume_look.html", 422, look=None, problems=found, needs=needs)
