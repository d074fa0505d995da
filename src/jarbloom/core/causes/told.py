"""What was said, done and answered, as pieces of evidence."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import datetime, timedelta

from jarbloom.core.causes.clusters import CLUSTER_OF
from jarbloom.core.causes.piece import SIGNS_FOR, Piece
from jarbloom.core.findings.facts import Facts
from jarbloom.core.journal.hearing import Heard, hear
from jarbloom.core.journal.kinds.answered import Answered
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.bed import BedStirred
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
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
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.model.entry import Body, Entry

EVENTS_FOR = timedelta(days=400)
TEXTS_MOST = 300
JUMP_SHARE, SMALL_SHARE = 0.4, 0.15  # of those who lived here
OF_FAULT = {"heater_dead": "lamp_dark", "heater_on": "lamp_lit", "heater_broken": "tingle", "filter": "weak_flow",
            "pump": "weak_flow", "electric": "tingle", "lid": "no_lid", "light": "lamp_new",
            "topoff": "topoff_stuck"}  # fmt: skip
OF_MEDIA = {"tap": "media_tap", "replaced": "media_new", "dried": "media_dry"}
HEADS = re.compile(r"\b(\d+) (?:new |young |small |large |larger |wild )?[a-z-]+")
IN_WORDS = (Note, Observation, Death, NewThing, Exposure, Fault, Medicine)


def texts_of(facts: Facts) -> tuple[Heard, ...]:
    """Everything that was written in words, far enough back for what works slowly."""
    start = facts.now - EVENTS_FOR
    log = [e for e in facts.log if e.at >= start and (e.note or isinstance(e.body, IN_WORDS))]
    here = frozenset(a.species for a in facts.living)
    return hear(log[-TEXTS_MOST:], facts.reference.words, facts.reference.species, here)


def _words(facts: Facts, heard: Heard) -> str:
    text = heard.text or heard.entry.body.words(facts.reference.species, facts.units)
    return text if len(text) <= 90 else f"{text[:88].rsplit(' ', 1)[0]} …"


def said(facts: Facts, texts: tuple[Heard, ...]) -> Iterator[Piece]:
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


def events(facts: Facts) -> Iterator[Piece]:
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


def answers(facts: Facts) -> Iterator[Piece]:
    """The latest answer of each check counts."""
    latest: dict[str, Entry[Answered]] = {}
    for e in facts.log.kinds(Answered):
        if facts.now - e.at <= 2 * SIGNS_FOR:
            latest[e.body.check] = e
    for e in latest.values():
        yield Piece(e.body.answer, "answer", e.body.words(facts.reference.species, facts.units), e.at, e.id)
