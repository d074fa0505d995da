"""One entry in a line, as the log book writes it."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date

from jarbloom.core.animals.names import animal_name, plural
from jarbloom.core.journal.kinds import BODY, CULTURE, DEVICES, DONOR, HOW, POWER, ROCK, SIGNS, WASHED
from jarbloom.core.journal.readings import LABELS
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import Reading
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, Units, figure


def words(entry: Entry, species: Mapping[str, Species], units: Units) -> str:
    """One entry in a line, as the log book writes it."""
    body = entry.body
    match entry.kind:
        case "test":
            return ", ".join(_reading_words(r, units) for r in entry.readings)
        case "dose":
            return f"{figure(body['mg_n'], 3)}{NBSP}mg{NBSP}N ({body.get('typed', '')})".replace(" ()", "")
        case "feed":
            return f"{figure(body['grams'])}{NBSP}g dry food" if "grams" in body else "a usual ration"
        case "change":
            share = f" ({100 * body['fraction']:.0f}{NBSP}%)" if "fraction" in body else ""
            return f"{units.volume(body['litres'])} new water{share}"
        case "topoff":
            return f"{units.volume(body['litres'])} fresh water"
        case "conditioner":
            amount = f"{figure(body['ml'])}{NBSP}mL" if "ml" in body else "amount not noted"
            return amount + (", binds ammonia" if body.get("detoxifies") else "")
        case "bacteria":
            amount = f", {figure(body['ml'])}{NBSP}mL" if "ml" in body else ""
            share = f", {figure(body['share'])}{NBSP}% of the filter" if "share" in body else ""
            old = f", use by {body['use_by']}" if "use_by" in body else ""
            donor = f", donor {dict(DONOR)[body['donor']]}" if "donor" in body else ""
            return dict(CULTURE)[body.get("source", "bottle")] + amount + share + old + donor
        case "rock":
            return f"{figure(body['kg'])}{NBSP}kg, {dict(ROCK)[body.get('condition', 'shipped')]}"
        case "off":
            until = f" until {_day(body['until'])}" if "until" in body else ""
            return f"{dict(DEVICES)[body['device']]}{until}"
        case "on":
            return dict(DEVICES)[body["device"]]
        case "check" | "step":
            parts = [body.get("title") or body[entry.kind], body.get("amount"), body.get("text")]
            return ", ".join([*(p for p in parts if p), *(["a fault was found"] if body.get("fault") else [])])
        case "job":
            until = f" until {_day(body['until'])}" if "until" in body else ""
            reason = f": {body['text']}" if body.get("text") else ""
            return f"{body.get('title') or body['job']}, {dict(HOW)[body['how']]}{until}{reason}"
        case "media":
            share = f", {figure(body['share'])}{NBSP}% of it" if "share" in body else ""
            return dict(WASHED)[body["how"]] + share
        case "bed":
            return f"stirred, {figure(body.get('share', 100))}{NBSP}% of it"
        case "power":
            return f"{figure(body['hours'])}{NBSP}h without power, {dict(POWER)[body.get('where', 'closed')]}"
        case "arrival":
            name = animal_name(body["species"], species)
            parts = [
                f"{body['count']} {plural(name, body['count'])}{' (already in)' if body.get('already_in') else ''}"
            ]
            parts += [f"from {body['seller']}"] if body.get("seller") else []
            parts += [f"for now, until {_day(body['until'])}"] if body.get("until") else []
            return ", ".join(parts)
        case "birth" | "count" | "given" | "moved" | "quarantine":
            text = f"{body['count']} {plural(animal_name(body['species'], species), body['count'])}"
            more = {"given": " given away", "moved": " moved out", "count": " seen", "birth": " born"}.get(
                entry.kind, ""
            )
            until = f", watched until {_day(body['until'])}" if entry.kind == "quarantine" else ""
            return text + more + (f" to {body['to']}" if body.get("to") else "") + until
        case "death":
            name = animal_name(body["species"], species)
            parts = [f"{body['count']} {plural(name, body['count'])} found dead"]
            parts += [body["cause"]] if body.get("cause") else []
            parts += [dict(BODY)[body["body"]]] if body.get("body") else []
            return ", ".join(parts)
        case "observation":
            seen = [SIGNS[s] for s in body.get("signs", [])] + ([body["text"]] if body.get("text") else [])
            return ", ".join(seen)
    text = str(body.get("text", ""))
    return text if len(text) <= 240 else text[:239] + "…"


def _day(iso: str) -> str:
    return f"{date.fromisoformat(iso):%-d %b}"


def _reading_words(reading: Reading, units: Units) -> str:
    label = LABELS[reading.quantity]
    if reading.quantity == "temp":
        return f"{label} {units.temp(reading.seen)}"
    if reading.quantity == "salinity":
        if reading.typed[-1:].isdigit():
            return f"{label} {reading.typed}{NBSP}g/kg"
        return f"{label} {reading.typed} ({figure(reading.seen)}{NBSP}g/kg)"
    if reading.quantity == "kh":
        return f"KH {reading.typed}{NBSP}dKH"
    return f"{label} {reading.typed}"
