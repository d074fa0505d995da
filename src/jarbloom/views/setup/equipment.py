"""Page data of the equipment: heating and its failures as curves, filters, oxygen by night, evaporation."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.animals.home import seasons_c
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.checks import Due
from jarbloom.core.setup.equipment import AT_LOW_MG_N_L, Equipment
from jarbloom.core.vessel.heat import CURVE_H, LETHAL_HIGH_C, LETHAL_LOW_C, Failure
from jarbloom.core.vessel.media import assumed_surfaces
from jarbloom.core.water.oxygen import COMFORT_MG_L, HARM_MG_L
from jarbloom.units import NBSP, Units, figure, load_text
from jarbloom.views.drawn.axes import r1

LABEL_GAP = 20.0
W, H, LEFT, RIGHT, TOP, BOTTOM = 560.0, 250.0, 64.0, 92.0, 16.0, 32.0


@dataclass(frozen=True)
class Curve:
    path: str
    css: str
    label: str
    x: float
    y: float


@dataclass(frozen=True)
class Level:
    y: float
    label: str
    limit: bool


@dataclass(frozen=True)
class HeatChart:
    """Temperature over three days after a failure; px."""

    width: float
    height: float
    left: float
    right: float
    bottom: float
    curves: tuple[Curve, ...]
    levels: tuple[Level, ...]
    hours: tuple[tuple[float, str], ...]
    words: str


@dataclass(frozen=True)
class FilterRow:
    name: str
    flow: str
    surface: str
    ceiling: str


@dataclass(frozen=True)
class EquipmentLook:
    heat: tuple[tuple[str, str], ...]
    heat_words: str
    chart: HeatChart | None
    failures: tuple[str, ...]
    filters: tuple[FilterRow, ...]
    flow: tuple[tuple[str, str], ...]
    flow_words: str
    air: tuple[tuple[str, str], ...]
    air_words: str
    low_air: bool


def equipment_look(tank: Tank, e: Equipment, units: Units) -> EquipmentLook:
    return EquipmentLook(
        _heat(tank, e, units), _heat_words(tank, e, units), heat_chart(e.failures, tank.temp_c, units),
        tuple(_failure_words(f, tank, units) for f in e.failures),
        tuple(
            FilterRow(w.filter.name, units.text(w.flow_l_h, "flow"), f"{figure(w.surface_m2, 2)}{NBSP}m²",
                      f"about {load_text(w.ceiling_mg_n_day)}")
            for w in e.filters
        ),
        _flow(tank, e, units), _flow_words(e), _air(e, units), _air_words(e),
        e.night is not None and e.night.predicted < COMFORT_MG_L,
    )  # fmt: skip


def _heat(tank: Tank, e: Equipment, units: Units) -> tuple[tuple[str, str], ...]:
    return (
        (f"to hold {units.temp(tank.temp_c)} in a room of {units.temp(tank.room_c)}", f"{e.needed_w:.0f}{NBSP}W"),
        ("rule of thumb, a watt a litre", f"{e.rule_w:.0f}{NBSP}W"),
        ("installed", f"{e.installed_w:.0f}{NBSP}W"),
    )


def _heat_words(tank: Tank, e: Equipment, units: Units) -> str:
    if not tank.heaters:
        if e.needed_w < 1:
            return "The room is as warm as the water is to be: no heater is needed in these hours."
        cold, warm = seasons_c(tank)
        return (
            f"No heater is set up: the water follows the room, from {units.temp(cold)} to {units.temp(warm)} over the "
            f"year, and animals are judged by both. {units.temp(tank.temp_c)} would need {e.needed_w:.0f}{NBSP}W in "
            "the coldest hours."
        )
    if e.installed_w < e.needed_w:
        return (
            f"Too little: in the coldest hours the tank falls below {units.temp(tank.temp_c)}. "
            "A lid saves more than a larger heater."
        )
    if len(tank.heaters) == 1:
        half = max(25.0, 25.0 * round(0.6 * e.needed_w / 25 + 0.499))
        return (
            f"Two heaters of about {half:.0f}{NBSP}W are safer than one: one that sticks cooks less, one that "
            "dies chills less."
        )
    return "The need is split: see what is left when the larger one fails."


def _failure_words(f: Failure, tank: Tank, units: Units) -> str:
    name = f.name[0].upper() + f.name[1:]
    text = f"{name}: the tank goes to {units.temp(f.settles_c)}"
    hot = f.limit_c == LETHAL_HIGH_C
    limit = f"{units.temp(f.limit_c)}, where most tropical fish die within a day or so (judgement)"
    if f.hours_to_limit is None:
        return f"{text}; within three days it does not reach {limit}."
    return f"{text}; after {figure(f.hours_to_limit, 2)}{NBSP}hours it is {'above' if hot else 'below'} {limit}."


def heat_chart(failures: tuple[Failure, ...], target_c: float, units: Units) -> HeatChart | None:
    """None without heaters. The scale takes in both limits where a curve comes within three degrees of them."""
    if not failures:
        return None
    temps = [float(t) for f in failures for t in f.temps_c]
    low, high = min([*temps, target_c]) - 1, max([*temps, target_c]) + 1
    limits = [c for c in (LETHAL_LOW_C, LETHAL_HIGH_C) if low - 3 <= c <= high + 3]
    low, high = min([low, *(c - 0.5 for c in limits)]), max([high, *(c + 0.5 for c in limits)])

    def x(hour: float) -> float:
        return r1(LEFT + (W - LEFT - RIGHT) * hour / CURVE_H)

    def y(c: float) -> float:
        return r1(TOP + (H - TOP - BOTTOM) * (high - c) / (high - low))

    curves = []
    for k, f in enumerate(failures):
        points = [(x(float(h)), y(float(c))) for h, c in zip(f.hours[::4], f.temps_c[::4], strict=True)]
        path = "M" + "L".join(f"{a:g} {b:g}" for a, b in points)
        end = points[-1]
        label = "stuck on" if k == 0 else "dead"
        curves.append(Curve(path, "q-on" if k == 0 else "q-off", label, end[0] + 6, end[1] + 4))
    if len(curves) == 2 and abs(curves[0].y - curves[1].y) < LABEL_GAP:
        upper = curves[0]
        curves[0] = Curve(upper.path, upper.css, upper.label, upper.x, curves[1].y - LABEL_GAP)
    levels = [Level(y(target_c), units.temp(target_c), False)]
    levels += [Level(y(c), units.temp(c), True) for c in limits]
    words = "; ".join(f"{f.name} after three days {units.temp(float(f.temps_c[-1]))}" for f in failures)
    return HeatChart(
        W, H, LEFT, W - RIGHT, H - BOTTOM, tuple(curves), tuple(levels),
        tuple((x(h), f"{h} h") for h in (0, 24, 48, 72)), words,
    )  # fmt: skip


def _flow(tank: Tank, e: Equipment, units: Units) -> tuple[tuple[str, str], ...]:
    assumed = "; glass and bed assumed, since only the litres are known" if assumed_surfaces(tank) else ""
    return (
        ("turnover", f"{figure(e.turnover_per_h, 2)} volumes an hour"),
        (f"the {e.school.name} school wants", f"{e.school.low:g} to {e.school.high:g}"),
        (
            f"ceiling of all surfaces, at {units.temp(25.0)}, within a factor of two{assumed}",
            f"about {load_text(e.ceiling_mg_n_day)} a day",
        ),
        (f"let through at {AT_LOW_MG_N_L}{NBSP}mg/L", f"at most {load_text(e.through_flow_mg_n_day)} a day"),
    )


def _flow_words(e: Equipment) -> str:
    if not e.filters:
        return "No filter is set up: glass, sand and rock carry what bloom there is."
    if e.turnover_per_h < e.school.low:
        words = f"Less flow than the {e.school.name} school wants"
    elif e.turnover_per_h > e.school.high:
        words = f"More flow than the {e.school.name} school wants"
    else:
        words = f"The flow fits the {e.school.name} school"
    bound = "surface" if e.ceiling_mg_n_day < e.through_flow_mg_n_day else "flow"
    return f"{words}; what the bloom can clear is bounded by the {bound}."


def _air(e: Equipment, units: Units) -> tuple[tuple[str, str], ...]:
    found = []
    if e.night is not None:
        n = e.night
        found += [
            ("oxygen towards morning, about", f"{figure(n.predicted, 2)}{NBSP}mg/L"),
            ("saturation here", f"{figure(n.saturation, 3)}{NBSP}mg/L"),
            (f"breathed by {figure(e.night_for_g, 2)}{NBSP}g of animals, grown up", f"{n.fish:.0f}{NBSP}mg a day"),
            ("by the bloom", f"{n.nitrification:.0f}{NBSP}mg a day"),
            ("by all that rots", f"{n.heterotrophs:.0f}{NBSP}mg a day"),
        ]
    found.append(("evaporates, about", f"{units.volume(e.evaporation_l_day)} a day"))
    if e.topped_l_day is not None:
        found.append(("as you topped up", f"{units.volume(e.topped_l_day)} a day"))
    if e.drift_g_kg_day > 0:
        found.append(("salinity climbs without top-off", f"{figure(e.drift_g_kg_day, 2)}{NBSP}g/kg a day"))
    return tuple(found)


def _air_words(e: Equipment) -> str:
    if e.night is None:
        return "No animals are in or planned: oxygen by night is worked out once they are."
    if e.night.predicted < HARM_MG_L:
        return f"Below {HARM_MG_L:g} mg/L many fish gasp: break the surface or add an air stone, or plan fewer animals."
    if e.night.margin < 0:
        return f"Below the {COMFORT_MG_L:g} mg/L that is comfortable: move the surface more by night."
    return (
        f"{figure(e.night.margin, 2)}{NBSP}mg/L above the {COMFORT_MG_L:g} that is comfortable; good to one or two "
        "mg/L, and plants take some too by night."
    )


@dataclass(frozen=True)
class CheckRow:
    key: str
    title: str
    words: str
    hardness: str
    last: str
    due: str
    overdue: bool
    fault: str
    caution: str


def check_rows(due: tuple[Due, ...], today: date) -> tuple[CheckRow, ...]:
    rows = sorted(due, key=lambda d: d.due)
    return tuple(
        CheckRow(
            d.check.key, d.check.title, d.check.words, d.check.hardness,
            f"last {d.last:%-d %b %Y}" if d.last else "never yet",
            "now" if d.due <= today else f"{d.due:%-d %b %Y}", d.due <= today, d.fault, d.check.caution,
        )
        for d in rows
    )  # fmt: skip
