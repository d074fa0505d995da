"""What was read, in numbers or in words, as pieces of evidence."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import timedelta

from jarbloom.core.causes.piece import AFTER_WATER, Piece
from jarbloom.core.findings.facts import Facts, Value
from jarbloom.core.journal.hearing import Heard

READS_FOR_H = 72.0
CLEAN_TAN, CLEAN_NO2 = 0.13, 0.06  # mg N/L: the middle of a usual lowest step
SMALL_TAN, VERY_HIGH_TAN = 1.0, 3.0
HIGH_NO3 = 9.0  # mg N/L, 40 mg/L of the ion
PH_STEP, PH_STEADY = 0.5, 0.25
ROOM = re.compile(r"\broom (?:is |was |at |of )?(\d{1,2}(?:[.,]\d)?)")
TAP = re.compile(r"\btap(?: water)?:? (?:\w+ )?(am|ammonia|na|nitrate) ?(?:is |of |reads )?(\d*[.,]?\d+)")
CHLORINE = re.compile(r"\b(free|total)? ?(?:chlorine|cl) ?(?:is |of |reads )?(\d*[.,]?\d+)")


def _reading(token: str, words: str, value: Value) -> Piece:
    return Piece(token, "reading", words, value.at, value.entry.id)


def readings(facts: Facts, texts: tuple[Heard, ...]) -> Iterator[Piece]:
    """Readings of the last days, of the tank and of its tap, by what they say."""
    yield from _waste(facts)
    yield from _acid(facts)
    yield from _warmth(facts, texts)
    yield from _salt(facts)
    yield from _others(facts)
    yield from _of_the_tap(facts, texts)


def _waste(facts: Facts) -> Iterator[Piece]:
    am, ni, na = (facts.last(q, READS_FOR_H) for q in ("ammonia", "nitrite", "nitrate"))
    lv = facts.levels
    if am is not None:
        words = f"ammonia {am.typed} on {am.at:%a %-d %b}"
        if am.seen <= CLEAN_TAN:
            yield _reading("tan_0", words, am)
            if ni is None or ni.seen <= CLEAN_NO2:
                yield _reading("clean", f"{words}{f', nitrite {ni.typed}' if ni else ''}", am)
        else:
            yield _reading("tan_up", words, am)
            if am.seen <= SMALL_TAN:
                yield _reading("tan_small", words, am)
            if am.seen >= VERY_HIGH_TAN:
                yield _reading("tan_very_high", words, am)
            if lv.nh3 is not None and lv.nh3.seen >= 0.05:
                yield _reading("nh3_high", f"free ammonia about {lv.nh3.seen:.2g} mg/L", am)
        yield from _course_of(facts, am)
    if ni is not None and ni.seen > CLEAN_NO2:
        yield _reading("no2_up", f"nitrite {ni.typed} on {ni.at:%a %-d %b}", ni)
        if am is not None and am.seen <= CLEAN_TAN:
            yield _reading("no2_alone", f"nitrite {ni.typed} with ammonia {am.typed}", ni)
    if na is not None and na.seen >= HIGH_NO3:
        yield _reading("no3_high", f"nitrate {na.typed} on {na.at:%a %-d %b}", na)
    for credible in facts.credible.values():
        if credible.doubt in ("contradiction", "odd_high", "high") and credible.last is not None:
            at, typed = credible.last.at, credible.last.reading.typed
            quantity = credible.last.reading.quantity
            yield Piece("one_odd", "reading", f"{quantity} {typed} does not fit the others", at, credible.last.entry_id)


def _course_of(facts: Facts, am: Value) -> Iterator[Piece]:
    """How ammonia went over the last two weeks."""
    before = [v for v in facts.values("ammonia", 14 * 24) if v.at < am.at]
    earlier = next((v for v in before if am.at - v.at >= timedelta(hours=30)), None)
    nitrite = facts.values("nitrite", 14 * 24)
    if earlier is not None and am.seen > SMALL_TAN / 2 and am.seen >= 0.9 * earlier.seen > 0.3:
        yield _reading("tan_flat", f"ammonia {earlier.typed}, then {am.typed}: it does not fall", am)
        if nitrite and all(v.seen <= CLEAN_NO2 for v in nitrite):
            yield _reading("no2_never", "no nitrite has come", nitrite[-1])
    top = max((v for v in before if am.at - v.at <= timedelta(days=4)), key=lambda v: v.seen, default=None)
    if top is not None and am.seen <= CLEAN_TAN and top.seen >= SMALL_TAN:
        changed = sum(e.body.litres for e in facts.changes if top.at <= e.at <= am.at)
        if changed < 0.5 * facts.volume:
            yield _reading("fell_without", f"ammonia {top.typed} fell to {am.typed} without a large change", am)


def _acid(facts: Facts) -> Iterator[Piece]:
    ph, kh = facts.last("ph", READS_FOR_H), facts.last("kh", READS_FOR_H)
    if ph is not None:
        own = facts.own("ph", ph.at)
        usual = own if own is not None else facts.tank.ph
        step, words = ph.seen - usual, f"pH {ph.typed}, usually about {usual:.3g}"
        if step >= PH_STEP:
            yield _reading("ph_up", words, ph)
        elif step <= -PH_STEP:
            yield _reading("ph_down", words, ph)
        if abs(step) >= PH_STEP:
            yield _reading("ph_step", words, ph)
        if abs(step) <= PH_STEADY:
            yield _reading("ph_steady", words, ph)
        if ph.seen < 6.5 and step <= -0.4:
            yield _reading("ph_low", words, ph)
        if ph.seen >= 8.2 and step >= 0.3:
            yield _reading("ph_high", words, ph)
    if kh is None:
        return
    own = facts.own("kh", kh.at)
    usual = own if own is not None else facts.tank.kh_dkh
    words = f"KH {kh.typed}, usually about {usual:.3g}"
    if kh.seen < 2 and usual - kh.seen >= 1.2:
        yield _reading("kh_low", words, kh)
    if kh.seen >= 4:
        yield _reading("kh_ok", words, kh)
    if abs(kh.seen - usual) <= 0.8:
        yield _reading("kh_steady", words, kh)
    elif facts.salted and 1.0 < abs(kh.seen - usual) < 6:
        yield _reading("kh_step", words, kh)
    if usual > 0 and min(abs(kh.seen / usual - 17.86), abs(usual / max(kh.seen, 0.01) - 17.86)) < 2.5:
        yield _reading("unit_ratio", f"{words}: about 17.8 times", kh)


def _warmth(facts: Facts, texts: tuple[Heard, ...]) -> Iterator[Piece]:
    t = facts.last("temp", 48)
    rooms = [(h, float(m[1].replace(",", "."))) for h in texts for m in ROOM.finditer(h.text.lower())]
    rooms = [(h, r) for h, r in rooms if facts.now - h.at <= timedelta(days=2)]
    if t is None:
        return
    low, high = facts.temp_range
    own = facts.tank.temp_c
    words = f"{facts.units.temp(t.seen)} on {t.at:%a %H:%M}, set for {facts.units.temp(own)}"
    if t.seen > high + 0.5 or t.seen >= own + 2:
        yield _reading("t_high", words, t)
    elif t.seen < low - 0.5 or t.seen <= own - 3:
        yield _reading("t_low", words, t)
        if any(timedelta(0) <= t.at - e.at <= AFTER_WATER for e in facts.changes):
            yield _reading("t_drop", f"{words}, after the change", t)
    elif abs(t.seen - own) <= 1.5:
        yield _reading("t_ok", words, t)
    if rooms:
        heard, room = max(rooms, key=lambda x: x[0].at)
        told = f"{facts.units.temp(t.seen)}, the room {facts.units.temp(room)}"
        if t.seen - room > 5 and t.seen >= own + 2:
            yield Piece("over_room", "reading", told, heard.at, heard.entry.id)
            yield Piece("room_cool", "reading", told, heard.at, heard.entry.id)
        elif abs(t.seen - room) <= 3 and t.seen >= own + 1:
            yield Piece("as_room", "reading", told, heard.at, heard.entry.id)


def _salt(facts: Facts) -> Iterator[Piece]:
    recent = facts.values("salinity", READS_FOR_H)
    if not recent or not facts.salted:
        return
    usual = facts.own("salinity", recent[-1].at)
    usual = usual if usual is not None else facts.tank.salinity_g_kg
    worst = max(recent, key=lambda v: abs(v.seen - usual))
    words = f"salinity {worst.typed}, usually about {usual:.3g} g/kg"
    off = abs(worst.seen - usual)
    if off >= (1.0 if facts.corals else 1.5):
        yield _reading("sal_off", words, worst)
        stepped = any(timedelta(0) <= worst.at - e.at <= timedelta(days=3) for e in facts.changes)
        if stepped:
            yield _reading("sal_step", f"{words}, after the change", worst)
    elif off < 1.0:
        yield _reading("sal_ok", words, recent[-1])


def _others(facts: Facts) -> Iterator[Piece]:
    oxygen, copper, chlorine = (facts.last(q, READS_FOR_H) for q in ("oxygen", "copper", "chlorine"))
    if oxygen is not None:
        token = "o2_low" if oxygen.seen < 5 else ("o2_ok" if oxygen.seen >= 6 else "")
        if token:
            yield _reading(token, f"oxygen {oxygen.typed} mg/L", oxygen)
    if copper is not None and copper.seen >= 0.02:
        yield _reading("cu_up", f"copper {copper.typed} mg/L", copper)
    if chlorine is not None:
        if chlorine.seen > 0.02:
            yield _reading("cl_up", f"chlorine {chlorine.typed} mg/L", chlorine)
        elif any(timedelta(0) <= chlorine.at - e.at <= timedelta(hours=3) for e in facts.changes):
            yield _reading("cl_0_fresh", "no chlorine within hours of the change", chlorine)


def _of_the_tap(facts: Facts, texts: tuple[Heard, ...]) -> Iterator[Piece]:
    """Chlorine in words, and what a cup of tap water read."""
    na = facts.last("nitrate", 60 * 24)
    for heard in texts:
        low = heard.text.lower()
        if facts.now - heard.at > timedelta(days=14):
            continue
        for hit in TAP.finditer(low):
            value = float(hit[2].replace(",", "."))
            if hit[1].startswith("a"):
                token = "tap_tan" if value >= 0.2 else "tap_clean"
                yield Piece(token, "reading", f"ammonia {hit[2]} in the tap", heard.at, heard.entry.id)
            elif na is not None and na.seen > 0:
                near = value >= 0.6 * float(na.typed.lstrip("<>") or 0)
                yield Piece("tap_no3" if near else "tap_clean", "reading", f"nitrate {hit[2]} in the tap, "
                            f"{na.typed} in the tank", heard.at, heard.entry.id)  # fmt: skip
        found = {hit[1] or "free": float(hit[2].replace(",", ".")) for hit in CHLORINE.finditer(low)}
        if not found or low.lstrip().startswith("tap"):
            continue
        free, total = found.get("free", 0.0), found.get("total", found.get("free", 0.0))
        if free > 0.02:
            yield Piece("cl_up", "reading", f"free chlorine {free:g}", heard.at, heard.entry.id)
        elif total > 0.02:
            yield Piece("cl_total_only", "reading", f"total chlorine {total:g}, none free", heard.at, heard.entry.id)
        elif "total" in found:
            yield Piece("cl_total_0", "reading", "no chlorine of any kind", heard.at, heard.entry.id)
        else:
            yield Piece("cl_0_fresh", "reading", "no free chlorine", heard.at, heard.entry.id)
