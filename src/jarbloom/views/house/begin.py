"""Page data of the first steps: a tank in three sentences, what was assumed, when it may be ready; and which tank for
whom."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from urllib.parse import quote_plus

import numpy as np

from jarbloom.core.animals.names import listed, plural
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.model.choices import FILTER_KINDS
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.which_tank import FULL, SizeAnswer, WhichTank, Wishes
from jarbloom.core.vessel.volume import net_l, weight_kg
from jarbloom.units import NBSP, Units, figure
from jarbloom.views.drawn.axes import r1
from jarbloom.views.drawn.section import Section, section

SPAN_DAYS, SPAN_WIDTH, SPAN_HIGH, SPAN_DOTS = 63, 360.0, 26.0, 420  # the strip of the first forecast
WEEKS = 7.0


@dataclass(frozen=True)
class Span:
    """When the first animals may come, as dots over weeks: drawn from the forecast's own quantiles."""

    words: str
    detail: str
    dots: str
    ticks: tuple[tuple[float, str], ...]


@dataclass(frozen=True)
class BeginPage:
    call: str
    words: str
    weight: str
    assumed: tuple[str, ...]
    label_y: float
    drawn: Section
    width: float
    height: float
    span: Span | None


def sizes_words(t: Tank, u: Units) -> str:
    if t.length_cm is None:
        return f"{u.volume(net_l(t))}, counted"
    sizes = " × ".join(figure(u.value(x, "length"), 3) for x in (t.length_cm, t.width_cm, t.height_cm) if x)
    return f"{sizes} {u.unit('length')}, {u.volume(net_l(t))} to swim in"


def equipment_words(t: Tank, u: Units) -> str:
    f = t.filters[0] if t.filters else None
    heat = f"{t.heater_w:.0f}{NBSP}W at {u.temp(t.temp_c)}" if t.heaters else "no heater"
    if f is None:
        return f"no filter, {heat}"
    return f"{dict(FILTER_KINDS).get(f.kind, f.kind)}, {u.volume(f.media_l)} of media; {heat}"


def assumed(t: Tank, u: Units, step: int) -> tuple[str, ...]:
    """What nobody has said yet, in the order in which it matters."""
    found = []
    if step < 3:
        f = t.filters[0]
        flow = f"{u.value(f.nominal_l_h, 'flow'):.0f}{NBSP}{u.unit('flow')}"
        real = f"{f.real_share * 100:.0f}{NBSP}% of the {flow} on its box"
        found.append(f"a {dict(FILTER_KINDS)[f.kind]} filter with {u.volume(f.media_l)} of foam, {real}")
        found.append(f"a heater of {t.heater_w:.0f}{NBSP}W, water at {u.temp(t.temp_c)}")
        found.append(f"the tap at pH {figure(t.source.ph)}, {figure(t.source.kh_dkh)}{NBSP}dKH, little nitrate")
    found.append(f"a room of {u.temp(t.room_c)} in its coldest hours, a lid, a kit of liquid drops")
    found.append(f"water line {u.length(t.waterline_cm)} below the rim")
    return tuple(found)


def span(r: Readiness, today: date, tank: str) -> Span:
    """Words and dots of readiness; nothing in sight is said as that."""
    if r.p50 is None:
        text = "No day is in sight within eight weeks, from this much."
        return Span(text, "Media from a running tank, warmth or a measured dose would help.", "", _weeks())
    days = [(d - today).days if d is not None else None for d in (r.p10, r.p50, r.p90)]
    low, middle, high = days[0] or 0, days[1] or 0, days[2]
    until = f"{_weeks_of(high)}" if high is not None else "more than 8"
    words = f"First animals in about {_weeks_of(low)} to {until} weeks"
    return Span(words, "from this much; eight in ten forecasts.", _dots(low, middle, high, tank), _weeks())


def _weeks_of(days: float) -> str:
    return f"{max(1, round(days / WEEKS))}"


def _weeks() -> tuple[tuple[float, str], ...]:
    found = [(r1(SPAN_WIDTH * w * WEEKS / SPAN_DAYS), f"{w} weeks" if w == 8 else str(w)) for w in (2, 4, 6, 8)]
    return ((0.5, "today"), *found)


def _dots(low: int, middle: int, high: int | None, seed: str) -> str:
    """A draw from a curve through the three quantiles: what is beyond the strip is left out."""
    rng = np.random.default_rng(sum(seed.encode()))
    beyond = high if high is not None else 2 * SPAN_DAYS
    at = np.interp(rng.random(SPAN_DOTS), (0.0, 0.1, 0.5, 0.9, 1.0),
                   (max(0, 2 * low - middle), low, middle, beyond, beyond + (beyond - middle) / 2))  # fmt: skip
    y = rng.random(SPAN_DOTS) * (SPAN_HIGH - 8) + 3
    kept = [(d, h) for d, h in zip(at, y, strict=True) if d <= SPAN_DAYS]
    return "".join(f"M{SPAN_WIDTH * d / SPAN_DAYS:.1f} {h:.1f}h0" for d, h in kept)


DRAWN_WIDTH, DRAWN_HIGH = 560.0, 300.0


def begin_page(t: Tank, u: Units, reference: Reference, step: int, ready: Readiness | None, today: date,
               wishes: Sequence[Animals] = ()) -> BeginPage:  # fmt: skip
    long, high = t.length_cm or 60.0, t.height_cm or 40.0
    scale = min((DRAWN_WIDTH - 20) / long, (DRAWN_HIGH - 24) / high)
    picture = section(replace(t, filled=True), (), reference, scale, DRAWN_HIGH - 4, 4.0, wishes)
    shown = span(ready, today, t.name) if ready is not None else None
    call = f"{u.volume(net_l(t))} to swim in."
    words = f"{shown.words}." if shown is not None and shown.dots else (shown.words if shown else "")
    weight = f"filled it weighs about {u.mass(1000 * round(weight_kg(t)))}"
    bare = replace(picture, words="")
    label_y = max(bare.water_top + 24, 30.0)
    return BeginPage(call, words, weight, assumed(t, u, step), label_y, bare, DRAWN_WIDTH, DRAWN_HIGH, shown)


@dataclass(frozen=True)
class SizeShown:
    title: str
    stance: str
    words: str
    by_experience: str
    weight: str
    size: str
    drawn: Section
    width: float
    plan: bool


@dataclass(frozen=True)
class AskedName:
    """A name that may mean several: each tap is the whole text with that kind in its place."""

    question: str
    taps: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class WhichPage:
    call: str
    words: str
    read: str
    asked: tuple[AskedName, ...]
    sizes: tuple[SizeShown, ...]
    anywhere: tuple[str, ...]
    height: float


SIZE_HIGH, ROW_WIDTH, GAP = 170.0, 1180.0, 26.0
STANCE = {"serves": "serves them for life", "tight": "tight", "small": "too small"}
AROUND = 2  # sizes shown below the first that serves, and above


def which_page(text: str, wishes: Wishes, found: WhichTank, reference: Reference, u: Units) -> WhichPage:
    species = reference.species
    asked = tuple(_asked(text, o.words, o.count, o.meant, species) for o in wishes.open)
    shown = _around(found)
    scale = _scale(shown)
    sizes = tuple(_size(s, found, wishes.animals, reference, u, scale) for s in shown)
    best, bold = found.first_cautious, found.first_experienced
    if not wishes.animals:
        call, words = ("Which of them?", "Several animals are called so.") if asked else ("", "")
    elif best is None:
        call, words = "No tank of a usual size serves them for life.", "Fewer of them, or smaller kinds."
    else:
        call = f"From {u.volume(best.litres)} up."
        words = f"{sizes_title(best.tank, u)} serves {listed(wishes.animals, species)} for life"
        words += "." if bold is None or bold is best else f"; {sizes_title(bold.tank, u)} does in practised hands."
    return WhichPage(call, words, listed(wishes.animals, species), asked, sizes,
                     tuple(f.sentence for f in found.anywhere), SIZE_HIGH)  # fmt: skip


def _around(found: WhichTank) -> tuple[SizeAnswer, ...]:
    """The sizes that matter: from the last that is too small to one above the first that serves."""
    if not found.sizes:
        return ()
    best = found.first_cautious
    k = found.sizes.index(best) if best is not None else len(found.sizes) - 1
    first = max(0, k - AROUND)
    return found.sizes[first : k + AROUND]


def _scale(shown: Sequence[SizeAnswer]) -> float:
    if not shown:
        return 1.0
    long = max(s.tank.length_cm or 0 for s in shown)
    high = max(s.tank.height_cm or 0 for s in shown)
    return min((ROW_WIDTH / len(shown) - GAP) / long, (SIZE_HIGH - 10) / high)


def sizes_title(t: Tank, u: Units) -> str:
    long = f"{figure(u.value(t.length_cm or 0, 'length'), 3)}{NBSP}{u.unit('length')}"
    return f"{long}, {u.volume(net_l(t))}"


def _size(s: SizeAnswer, found: WhichTank, animals: Sequence[Animals], reference: Reference, u: Units,
          scale: float) -> SizeShown:  # fmt: skip
    t = s.tank
    grown = [replace(a, length_cm=reference.species[a.species].adult_cm) for a in animals]
    drawn = section(replace(t, filled=True), grown, reference, scale, SIZE_HIGH - 4, 2.0)
    why = s.against[0].sentence if s.against else ""
    if not why and s.full > FULL:
        why = f"{figure(s.full, 2)} times the usual load of so much water: large changes every week."
    if s.cautious == "serves":
        why = _spare(s, animals, reference.species)
    more = "" if s.experienced == s.cautious else f"in practised hands: {STANCE[s.experienced]}"
    size = f"{t.length_cm:.0f}x{t.width_cm:.0f}x{t.height_cm:.0f}"
    return SizeShown(
        sizes_title(t, u), STANCE[s.cautious], why, more, f"about {u.mass(1000 * round(s.kg))} on the floor", size,
        drawn,
        r1((t.length_cm or 0) * scale + GAP), s.cautious != "small" or s.experienced == "serves",
    )  # fmt: skip


def _spare(s: SizeAnswer, animals: Sequence[Animals], species: Mapping[str, Species]) -> str:
    """What such a tank has room for beside them."""
    left = 1 - s.full
    if left < 0.15:
        return "as full as is usual"
    small = min(animals, key=lambda a: species[a.species].adult_cm)
    name = plural(species[small.species].name, 2)
    return f"all in, and room for more: {figure(100 * left, 2)}{NBSP}% of its usual load is left ({name}, say)"


def _asked(text: str, words: str, count: int, meant: Sequence[str], species: Mapping[str, Species]) -> AskedName:
    if not meant:
        return AskedName(f"“{words[:40]}” is not in the catalogue.", ())
    taps = []
    for key in meant:
        name = plural(species[key].name, count or 2)
        low = text.lower()
        at = low.find(words)
        taps.append((species[key].name, quote_plus(text[:at] + name + text[at + len(words) :] if at >= 0 else name)))
    return AskedName(f"Which {words[:40]}?", tuple(taps))
