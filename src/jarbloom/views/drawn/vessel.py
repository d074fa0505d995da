"""The tank drawn to true proportions in three views at one scale, with its sizes as handles; and what they come to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.shapes import GroundPlan, glass_cm, has_shape, inner, inner_height_cm, outer
from jarbloom.core.vessel.volume import (
    beside_l,
    decor_l,
    floor_load_kg_m2,
    geometric_net_l,
    net_l,
    substrate_at_cm,
    vessel,
    weight_kg,
)
from jarbloom.units import NBSP, Units, figure
from jarbloom.views.drawn.axes import r1

WIDTH = 720.0
LEFT, TOP, BETWEEN, RIGHT, GAP, BOTTOM = 40.0, 34.0, 96.0, 96.0, 62.0, 34.0
FIT_HEIGHT = 486.0
MOST_PX_CM = 9.0
DRAWN_POINTS = 96  # of an outline
CM_PER = {"cm": 1.0, "in": 2.54}


@dataclass(frozen=True)
class Handle:
    """A size that can be dragged: along which axis, which way makes it larger, and px for one of the typed unit."""

    name: str
    label: str
    x: float
    y: float
    axis: str
    sign: int
    px_per_unit: float
    value: str
    text: str


@dataclass(frozen=True)
class Measure:
    """A dimension line with its figure."""

    path: str
    x: float
    y: float
    text: str
    anchor: str = "start"


@dataclass(frozen=True)
class View:
    """One elevation, in px: the glass inside and out, the water and the bed as polygons."""

    title: str
    x: float
    y: float
    width: float
    height: float
    glass: str
    water: str
    line: str
    bed: str
    bed_behind: str
    decor: tuple[str, ...] = ()


@dataclass(frozen=True)
class Drawing:
    width: float
    height: float
    px_per_cm: float
    front: View
    side: View
    outer: str
    inner: str
    measures: tuple[Measure, ...]
    handles: tuple[Handle, ...]
    title: str


@dataclass(frozen=True)
class VesselLook:
    """The fragment beside the volume form."""

    drawing: Drawing | None
    facts: tuple[tuple[str, str], ...]
    words: str
    needs: tuple[str, ...]


def _path(points: Sequence[tuple[float, float]], closed: bool = True) -> str:
    text = "M" + "L".join(f"{r1(x):g} {r1(y):g}" for x, y in points)
    return text + ("Z" if closed else "")


def _thin(plan: GroundPlan) -> list[tuple[float, float]]:
    step = max(1, len(plan.points) // DRAWN_POINTS)
    kept = list(plan.points[::step])
    return kept if kept[-1] == plan.points[-1] else [*kept, plan.points[-1]]


def drawing(tank: Tank, units: Units, px_per_cm: float | None = None) -> Drawing:
    """Three views of a tank whose sizes are known. `px_per_cm` holds the scale still while a size is dragged."""
    floor, water = outer(tank), inner(tank)
    xs = [p[0] for p in floor.points]
    length, depth = max(xs) - min(xs), floor.back_cm - floor.front_cm
    t = glass_cm(tank)
    height = inner_height_cm(tank) + t
    scale = px_per_cm or min(
        (WIDTH - LEFT - BETWEEN - RIGHT) / (length + depth), (FIT_HEIGHT - TOP - GAP) / (height + depth), MOST_PX_CM
    )
    x0, x1 = LEFT, LEFT + length * scale + BETWEEN
    front = _elevation("front", x0, length, height, scale, tank, sloped=False)
    side = _elevation("side; front left", x1, depth, height, scale, tank, sloped=True)
    y2 = TOP + height * scale + GAP
    offset = min(xs)

    def above(points: list[tuple[float, float]]) -> str:
        return _path([(x0 + (x - offset) * scale, y2 + (floor.back_cm - y) * scale) for x, y in points])

    measures, handles = _sizes(tank, units, scale, x0, x1, y2, length, depth, height)
    return Drawing(
        WIDTH if px_per_cm is None else max(WIDTH, r1(x1 + depth * scale + RIGHT)),
        r1(y2 + depth * scale + BOTTOM),
        scale,
        front,
        side,
        above(_thin(floor)),
        above(_thin(water)),
        tuple(measures),
        tuple(handles),
        f"{tank.name or 'The tank'} from the front, from the side and from above, to one scale",
    )


def _elevation(title: str, x: float, across: float, height: float, px: float, tank: Tank, *, sloped: bool) -> View:
    t, plan = glass_cm(tank), inner(tank)
    bottom = TOP + (height - t) * px
    left, right = x + t * px, x + (across - t) * px
    line = bottom - (inner_height_cm(tank) - tank.waterline_cm) * px
    front, back = substrate_at_cm(tank, plan.front_cm) * px, substrate_at_cm(tank, plan.back_cm) * px
    glass = (
        f"M{r1(x):g} {TOP:g}V{r1(TOP + height * px):g}H{r1(x + across * px):g}V{TOP:g}H{r1(right):g}"
        f"V{r1(bottom):g}H{r1(left):g}V{TOP:g}Z"
    )
    water = _path([(left, line), (right, line), (right, bottom), (left, bottom)])
    if sloped:
        bed = _path([(left, bottom - front), (right, bottom - back), (right, bottom), (left, bottom)])
        behind = ""
    else:
        bed = _path([(left, bottom - front), (right, bottom - front), (right, bottom), (left, bottom)])
        behind = _path([(left, bottom - back), (right, bottom - back)], False) if abs(front - back) > 1 else ""
    return View(
        title, r1(x), TOP, r1(across * px), r1(height * px), glass, water,
        f"M{r1(left):g} {r1(line):g}H{r1(right):g}", bed if max(front, back) > 0 else "", behind,
        () if sloped else _mounds(tank, left, right, bottom - front, bottom - line, px),
    )  # fmt: skip


# A heap of stones, and a branch, as outlines of about one unit of area above their base line.
_HEAP = ((-0.86, 0), (-0.7, 0.34), (-0.42, 0.42), (-0.3, 0.78), (0.04, 0.92), (0.26, 0.7), (0.5, 0.66), (0.66, 0.3),
         (0.88, 0))  # fmt: skip
_BRANCH = ((-1.5, 0), (-1.3, 0.3), (-0.5, 0.42), (0.2, 0.9), (0.42, 0.86), (0.1, 0.4), (0.7, 0.36), (1.3, 0.62),
           (1.42, 0.5), (0.9, 0.12), (1.1, 0))  # fmt: skip


def _area(points: Sequence[tuple[float, float]]) -> float:
    after = [*points[1:], points[0]]
    return abs(sum(x * v - u * y for (x, y), (u, v) in zip(points, after, strict=True))) / 2


def _mounds(tank: Tank, left: float, right: float, ground: float, deep: float, px: float) -> tuple[str, ...]:
    """Rock and wood in front view: heaps whose drawn area, over the tank's depth, is the volume that they take."""
    floor = inner(tank)
    depth = floor.area_cm2 / max((right - left) / px, 1e-9)
    found = []
    for k, item in enumerate(tank.decor):
        shape = _BRANCH if item.kind == "wood" else _HEAP
        wanted = 1000 * decor_l(item) / depth * px * px
        size = (wanted / _area(shape)) ** 0.5
        tall = min(1.0, 0.96 * deep / (0.92 * size))  # a heap that would stand out of the water is drawn flatter
        centre = left + (right - left) * (k + 1) / (len(tank.decor) + 1)
        points = [(centre + x * size / tall, ground - y * size * tall) for x, y in shape]
        found.append(_path([(min(max(x, left), right), y) for x, y in points]))
    return tuple(found)


def _sizes(
    tank: Tank, units: Units, px: float, x0: float, x1: float, y2: float, length: float, depth: float, height: float
) -> tuple[list[Measure], list[Handle]]:
    """Dimension lines, and a handle at the end of each."""
    unit = units.unit("length")
    per_unit = r1(px * CM_PER[unit] * 1000) / 1000
    measures: list[Measure] = []
    handles: list[Handle] = []
    t, plan = glass_cm(tank), inner(tank)
    inset = 0.0 if tank.outside else t
    bottom = TOP + (height - t) * px

    def size(name: str, label: str, cm: float, x: float, y: float, axis: str, sign: int, per: float = 1.0) -> None:
        value = figure(units.value(cm, "length"), 4).replace("−", "-")
        handles.append(Handle(name, label, r1(x), r1(y), axis, sign, per_unit * per, value, units.length(cm)))

    a, b = x0 + inset * px, x0 + (length - inset) * px
    y = TOP - 14
    measures.append(
        Measure(f"M{r1(a):g} {y:g}H{r1(b):g}", r1((a + b) / 2), y - 5, units.length(tank.length_cm or 0), "mid")
    )
    size("length_cm", "length", tank.length_cm or 0.0, b, y, "x", 1)
    x = x0 + length * px + 20
    top, foot = TOP, bottom if not tank.outside else TOP + height * px
    measures.append(
        Measure(f"M{r1(x):g} {top:g}V{r1(foot):g}", r1(x + 8), r1((top + foot) / 2), units.length(tank.height_cm or 0))
    )
    size("height_cm", "height", tank.height_cm or 0.0, x, top, "y", -1)
    line = bottom - (inner_height_cm(tank) - tank.waterline_cm) * px
    size("waterline_cm", "water line below the rim", tank.waterline_cm, x0 + length * px / 2, line, "y", 1)
    below = units.length(tank.waterline_cm)
    measures.append(Measure("", r1(x0 + length * px / 2 + 14), r1(line + 20), f"{below} below the rim"))
    if tank.substrate != "none":
        front, back = substrate_at_cm(tank, plan.front_cm), substrate_at_cm(tank, plan.back_cm)
        size("substrate_cm", "substrate in front", front, x1 + t * px, bottom - front * px, "y", -1)
        size("substrate_back_cm", "substrate at the back", back, x1 + (depth - t) * px, bottom - back * px, "y", -1)
        measures.append(Measure("", r1(x1 - 12), r1(bottom - front * px + 4), units.length(front), "end"))
        measures.append(Measure("", r1(x1 + depth * px + 12), r1(bottom - back * px + 4), units.length(back)))
    if tank.shape in ("box", "bow_front"):
        wide = tank.width_cm or 0.0
        right = x0 + length * px + 20
        up, down = y2 + inset * px, y2 + (inset + wide) * px
        measures.append(
            Measure(f"M{r1(right):g} {r1(up):g}V{r1(down):g}", r1(right + 8), r1((up + down) / 2), units.length(wide))
        )
        size("width_cm", "width", wide, right, down, "y", 1)
    if tank.shape == "bow_front":
        bow = tank.bow_cm or 0.0
        size("bow_cm", "bow beyond the sides", bow, x0 + length * px / 2, y2 + depth * px, "y", 1)
    return measures, handles


def vessel_look(tank: Tank, units: Units, needs: tuple[str, ...], px_per_cm: float | None = None) -> VesselLook:
    """Drawing and figures for a tank that passed its checks."""
    found = [("net water", units.volume(net_l(tank)) + (", as counted" if tank.measured_l is not None else ""))]
    words = ""
    if not has_shape(tank):
        found.append(("filled, with stand and stone, about", f"{weight_kg(tank):.0f}{NBSP}kg"))
        return VesselLook(None, tuple(found), "Without its sizes the tank is not drawn.", needs)
    v = vessel(tank)
    geometric = geometric_net_l(tank)
    if tank.measured_l is not None:
        off = 100 * (geometric / tank.measured_l - 1)
        found.append(("by geometry", f"{units.volume(geometric)} ({figure(off, 2)}{NBSP}%)"))
    found += [
        ("gross, to the rim", units.volume(v.gross_l)),
        ("surface", f"{figure(v.surface_m2)}{NBSP}m²"),
    ]
    taken = v.grains_l + v.decor_l
    if taken > 0.05:
        found.append(("taken by grains, stone and wood", units.volume(taken)))
    if beside_l(tank):
        found.append(("in sump and filters", units.volume(beside_l(tank))))
    weight, load = weight_kg(tank), floor_load_kg_m2(tank) or 0.0
    filled = units.text(round(weight), "weight")
    found += [("filled, without stand, about", filled), ("on its footprint", units.pressure(load))]
    if weight >= 2 * PERSON_KG:
        words = (
            f"As heavy as about {weight / PERSON_KG:.0f} grown people standing together on "
            f"{figure(v.footprint_m2, 2)}{NBSP}m², for years."
        )
    return VesselLook(drawing(tank, units, px_per_cm), tuple(found), words, needs)


PERSON_KG = 75
