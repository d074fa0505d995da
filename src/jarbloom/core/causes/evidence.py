"""What is known about an upset without being asked: signs, what changed before them, readings, answers, residents.

Every piece is a token that causes ask for (data/causes.toml), with its words, its moment and the entry it rests on.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cached_property

from jarbloom.core.animals.names import plural
from jarbloom.core.causes.clusters import CLUSTER_OF
from jarbloom.core.findings.facts import Facts, Value
from jarbloom.core.journal.clean import is_clean
from jarbloom.core.journal.hearing import Heard, hear
from jarbloom.core.journal.kinds.answered import Answered
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.bed import BedStirred
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.count import HeadCount
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.escape import Escape
from jarbloom.core.journal.kinds.exposure import Exposure
from jarbloom.core.journal.kinds.fault import Fault
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.medicine import Medicine
from jarbloom.core.journal.kinds.new_thing import NewThing
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.model.entry import Body, Entry

SIGNS_FOR = timedelta(hours=96)  # a sign belongs to the upset of now for so long
EVENTS_FOR = timedelta(days=400)
READS_FOR_H = 72.0
TEXTS_MOST = 300
CLEAN_TAN, CLEAN_NO2 = 0.13, 0.06  # mg N/L: the middle of a usual lowest step
SMALL_TAN, VERY_HIGH_TAN = 1.0, 3.0
HIGH_NO3 = 9.0  # mg N/L, 40 mg/L of the ion
PH_STEP, PH_STEADY = 0.5, 0.25
AFTER_WATER = timedelta(hours=24)  # docs/upsets.md: signs that began within a day of new water
OLD_SHARE = 0.8  # of a lifespan
MOUTH_FITS = 3.5  # lengths: what is that much shorter goes into a usual mouth
JUMP_SHARE, SMALL_SHARE = 0.4, 0.15  # of those who lived here
OF_FAULT = {"heater_dead": "lamp_dark", "heater_on": "lamp_lit", "heater_broken": "tingle", "filter": "weak_flow",
            "pump": "weak_flow", "electric": "tingle", "lid": "no_lid", "light": "lamp_new",
            "topoff": "topoff_stuck"}  # fmt: skip
OF_MEDIA = {"tap": "media_tap", "replaced": "media_new", "dried": "media_dry"}
ROOM = re.compile(r"\broom (?:is |was |at |of )?(\d{1,2}(?:[.,]\d)?)")
TAP = re.compile(r"\btap(?: water)?:? (?:\w+ )?(am|ammonia|na|nitrate) ?(?:is |of |reads )?(\d*[.,]?\d+)")
CHLORINE = re.compile(r"\b(free|total)? ?(?:chlorine|cl) ?(?:is |of |reads )?(\d*[.,]?\d+)")
HEADS = re.compile(r"\b(\d+) (?:new |young |small |large |larger |wild )?[a-z-]+")

# What an answer takes back that was seen before it
CLEARS = {
    "heads_complete": ("short_count", "gone", "heads_short"),
    "smell_fresh": ("smell", "eggs_smell"),
    "flow_well": ("weak_flow",),
    "t_ok": ("t_high", "t_low", "t_drop"),
    "retest_apart": ("tan_up", "no2_up"),
}
IN_WORDS = (Note, Observation, Death, NewThing, Exposure, Fault, Medicine)


@dataclass(frozen=True)
class Piece:
    """`kind`: sign, event, reading, answer or tank. `entry_id`: what it rests on, None: known of the tank."""

    token: str
    kind: str
    words: str
    at: datetime
    entry_id: int | None = None


class Evidence:
    """All pieces of a moment. Of one token the signs keep the first, the rest the latest."""

    def __init__(self, facts: Facts) -> None:
        self.facts = facts
        self.pieces: dict[str, Piece] = {}
        self.events: list[Piece] = []
        for piece in _all_pieces(facts):
            if piece.kind == "event":
                self.events.append(piece)
            held = self.pieces.get(piece.token)
            if held is None or held.kind == "event" or (piece.kind != "event" and piece.at >= held.at):
                self.pieces[piece.token] = piece
        for token, cleared in CLEARS.items():
            answer = self.pieces.get(token)
            if answer is not None and answer.kind == "answer":
                for other in cleared:
                    if other in self.pieces and self.pieces[other].at <= answer.at:
                        del self.pieces[other]
        for piece in _drawn(self):
            self.pieces.setdefault(piece.token, piece)

    def __contains__(self, token: str) -> bool:
        return token in self.pieces

    def has(self, *tokens: str) -> bool:
        return any(t in self.pieces for t in tokens)

    @cached_property
    def signs(self) -> tuple[Piece, ...]:
        return tuple(p for p in self.pieces.values() if p.token in CLUSTER_OF and p.kind in ("sign", "answer"))

    @cached_property
    def clusters(self) -> frozenset[str]:
        return frozenset(CLUSTER_OF[p.token] for p in self.signs) - {"calm"}

    @cached_property
    def began(self) -> datetime:
        """When the first sign of this upset was seen, else now."""
        return min((p.at for p in self.signs if p.token != "calm"), default=self.facts.now)

    def before(self, tokens: Iterable[str]) -> list[Piece]:
        """What happened of these, the latest first."""
        wanted = set(tokens)
        return sorted((p for p in self.events if p.token in wanted), key=lambda p: p.at, reverse=True)


def _all_pieces(facts: Facts) -> Iterator[Piece]:
    texts = _texts(facts)
    yield from _said(facts, texts)
    yield from _events(facts)
    yield from _readings(facts, texts)
    yield from _answers(facts)
    yield from _residents(facts)


def _texts(facts: Facts) -> tuple[Heard, ...]:
    """Everything that was written in words, far enough back for what works slowly."""
    start = facts.now - EVENTS_FOR
    log = [e for e in facts.log if e.at >= start and (e.note or isinstance(e.body, IN_WORDS))]
    here = frozenset(a.species for a in facts.living)
    return hear(log[-TEXTS_MOST:], facts.reference.words, facts.reference.species, here)


def _words(facts: Facts, heard: Heard) -> str:
    text = heard.text or heard.entry.body.words(facts.reference.species, facts.units)
    return text if len(text) <= 90 else f"{text[:88].rsplit(' ', 1)[0]} …"


def _said(facts: Facts, texts: tuple[Heard, ...]) -> Iterator[Piece]:
    """A sign is of now; whatever else words tell is something that happened, and stays known."""
    for heard in texts:
        fresh = facts.now - heard.at <= SIGNS_FOR
        for token in heard.keys:
            sign = token in CLUSTER_OF and not (token in ("chase", "torn", "dead", "gone") and not fresh)
            if token in CLUSTER_OF and not fresh:
                if token in ("short_count", "gone", "dead"):
                    yield Piece(token, "event", _words(facts, heard), heard.at, heard.entry.id)
                continue
            yield Piece(token, "sign" if sign else "event", _words(facts, heard), heard.at, heard.entry.id)
            if token in ("moult", "weak_flow", "tingle", "milky", "short_count", "gone", "breeding"):
                yield Piece(token, "event", _words(facts, heard), heard.at, heard.entry.id)
        if heard.any("came", "batch_words") and isinstance(heard.entry.body, Note):
            yield from _batch_words(facts, heard)


def _batch_words(facts: Facts, heard: Heard) -> Iterator[Piece]:
    yield Piece("batch", "event", _words(facts, heard), heard.at, heard.entry.id)
    if hit := HEADS.search(heard.text.lower()):
        yield from _jump(facts, int(hit[1]), facts.heads, heard.at, heard.entry.id)


def _jump(facts: Facts, came: int, others: int, at: datetime, entry_id: int) -> Iterator[Piece]:
    if came >= JUMP_SHARE * max(others, 1):
        yield Piece("load_jump", "tank", f"{came} came to {others} at once", at, entry_id)
    elif came <= SMALL_SHARE * others:
        yield Piece("load_small", "tank", f"only {came} came to {others}", at, entry_id)


def _event(facts: Facts, entry: Entry, token: str) -> Piece:
    body: Body = entry.body
    words = f"{body.label.lower()}, {body.words(facts.reference.species, facts.units)}"
    return Piece(token, "event", words, entry.at, entry.id)


def _events(facts: Facts) -> Iterator[Piece]:
    """What was logged by its kind."""
    start = facts.now - EVENTS_FOR
    conditioned = [e.at for e in facts.log.kinds(Conditioner)]
    first_seen = False
    heads = 0
    for e in facts.log:
        body = e.body
        if isinstance(body, Arrival):
            if not body.already_in and e.at >= start:
                yield _event(facts, e, "batch")
                if not first_seen:
                    yield _event(facts, e, "first_animals")
                elif facts.now - e.at <= timedelta(days=21):
                    yield from _jump(facts, body.count, heads, e.at, e.id)
            first_seen, heads = True, heads + body.count
            continue
        if e.at < start:
            continue
        for token in _tokens_of(body):
            yield _event(facts, e, token)
        if isinstance(body, Change) and any(abs((at - e.at).total_seconds()) <= 6 * 3600 for at in conditioned):
            yield _event(facts, e, "conditioned")


def _tokens_of(body: Body) -> list[str]:
    match body:
        case Change():
            return ["new_water"]
        case TopOff():
            return ["new_water", "topoff", *(["topoff_salt"] if body.salty else [])]
        case MediaCleaned():
            return [OF_MEDIA[body.how]] if body.how in OF_MEDIA else []
        case PowerCut():
            return ["power_out", *(["cut_short"] if body.hours < 1 else [])]
        case Conditioner():
            return ["masking", "binder_in"] if body.detoxifies else []
        case Fault():
            return [OF_FAULT[body.device]] if body.device in OF_FAULT else []
        case BedStirred():
            return ["bed_out"]
        case Rock():
            return ["rock_in"]
        case Bacteria():
            return ["bottle"]
        case Medicine():
            return ["medicine"]
        case NewThing():
            return ["new_thing"]
        case Exposure():
            return ["copper"] if body.what == "metal" else ["poison"]
        case Escape():
            return ["jumped", "no_lid"]
        case Birth():
            return ["breeding"]
        case Death():
            return ["death"]
        case _:
            return []


def _answers(facts: Facts) -> Iterator[Piece]:
    """The latest answer of each check counts."""
    latest: dict[str, Entry[Answered]] = {}
    for e in facts.log.kinds(Answered):
        if facts.now - e.at <= 2 * SIGNS_FOR:
            latest[e.body.check] = e
    for e in latest.values():
        yield Piece(e.body.answer, "answer", e.body.words(facts.reference.species, facts.units), e.at, e.id)


# --- readings ---


def _reading(token: str, words: str, value: Value) -> Piece:
    return Piece(token, "reading", words, value.at, value.entry.id)


def _readings(facts: Facts, texts: tuple[Heard, ...]) -> Iterator[Piece]:
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


# --- who lives here ---


def _residents(facts: Facts) -> Iterator[Piece]:
    now, species = facts.now, facts.reference.species
    if facts.school.fish_in:
        yield Piece("fish_in", "tank", "the tank cycles with animals in", now)
    if facts.living and facts.forecast.n_readings and facts.forecast.load_now > 1.2 * facts.forecast.likely:
        yield Piece("load_over", "tank", "they put out more than the bloom likely carries", now)
    fish = [a for a in facts.living if a.species in species and species[a.species].group == "fish"]
    lengths = [a.length_cm or species[a.species].adult_cm for a in fish]
    if lengths and max(lengths) >= MOUTH_FITS * min(lengths):
        yield Piece("mouth_fits", "tank", f"{max(lengths):.2g} cm beside {min(lengths):.2g} cm: a mouth that fits", now)
    for a in facts.living:
        kind = species.get(a.species)
        came = next((e.at for e in facts.log.kinds(Arrival) if e.body.species == a.species), None)
        if kind is not None and came is not None and (now - came).days > OLD_SHARE * kind.lifespan_y * 365:
            yield Piece("old_animal", "event", f"{plural(kind.name, 2)} near the end of their span", came)
    deaths = [e for e in facts.log.kinds(Death) if now - e.at <= timedelta(days=60)]
    fresh = [e for e in deaths if now - e.at <= timedelta(hours=48)]
    if fresh:
        many = sum(e.body.count for e in fresh) > 1
        yield Piece("dead_many" if many else "dead_one", "sign",
                    f"{sum(e.body.count for e in fresh)} found dead", fresh[0].at, fresh[0].id)  # fmt: skip
    if len(deaths) > len(fresh) > 0:
        yield Piece("second_death", "tank", "not the first within two months", deaths[0].at, deaths[0].id)
    counts = [e for e in facts.log.kinds(HeadCount) if now - e.at <= SIGNS_FOR]
    for e in counts:
        before = sum(a.count for a in facts.living if a.species == e.body.species)
        if e.body.count < before:
            yield Piece("short_count", "sign", f"{e.body.count} of {before} counted", e.at, e.id)


# --- what several pieces say together ---
SETTLED = timedelta(days=2)  # a batch has shown what it puts out


def _clean_days(facts: Facts, since: datetime, until: datetime) -> list[Entry]:
    """The last clean test of each day between two moments."""
    found = [e for e in facts.log.kinds(Tested) if since <= e.at < until and is_clean(e.readings, facts.tank.kit)]
    return list({e.day: e for e in found}.values())


def _drawn(evidence: Evidence) -> Iterator[Piece]:
    now = evidence.facts.now
    water = evidence.before(["new_water", "untreated"])
    sudden = evidence.has("gasp", "breath", "dart", "redgill", "slime", "list", "pale", "bottom", "clamp", "coral_shut")
    if water and sudden and "calm" not in evidence and timedelta(0) <= evidence.began - water[0].at <= AFTER_WATER:
        yield Piece("after_water", "sign", "it began within a day of new water", water[0].at, water[0].entry_id)
    if len(evidence.clusters - {"who", "when"}) >= 2:
        yield Piece("two_clusters", "tank", "two different kinds of signs", now)
    if evidence.has("redgill", "browngill", "gasp") and "tan_0" in evidence and "fell_without" in evidence:
        yield Piece("tan_0_sick", "reading", "no ammonia reads, and the gills say otherwise", now)
    came = evidence.before(["batch", "first_animals"])
    if came:
        carried = _clean_days(evidence.facts, came[0].at + SETTLED, evidence.began)
        if len(carried) >= 2:
            words = f"clean tests on {len(carried)} days after the last animals came"
            yield Piece("carried", "reading", words, carried[-1].at, carried[-1].id)
    if "dead" in evidence and not evidence.has("dead_many", "dead_one"):
        yield Piece("dead_one", "sign", evidence.pieces["dead"].words, evidence.pieces["dead"].at)
