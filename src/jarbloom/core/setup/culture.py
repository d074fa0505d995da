"""Bottles and borrowed media: what to do before they go in, and what is switched off until when."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.bloom.events import SALT_NOTICED_G_KG, SEEDING, culture_of
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.choices import DEVICES
from jarbloom.core.model.tank import Tank
from jarbloom.units import NBSP, Units, figure, percent

OFF_DAYS = {"skimmer": 4, "uv": 5, "carbon": 7, "ozone": 5, "pump": 1}  # while a culture settles; practice
MATCH_C = 2.0


@dataclass(frozen=True)
class Preparation:
    """One thing to do before the culture goes in. `device` and `days`: what it switches off, for so long."""

    key: str
    title: str
    words: str
    device: str = ""
    days: int = 0


def preparations(tank: Tank, source: str, units: Units) -> tuple[Preparation, ...]:
    """The checklist for a bottle or for borrowed media in this tank."""
    temp = units.temp(tank.temp_c)
    found = [
        Preparation("chlorine", "Chlorine and chloramine are gone", "A conditioner was dosed; both kill the culture."),
    ]
    if source == "borrowed":
        found += [
            Preparation("donor", "The donor tank is healthy", "No losses, no treatment for two months: pests and "
                        "diseases travel with the media, and the tool cannot see them."),
            Preparation("wet", "Kept wet, warm and open on the way", "In tank water, with air, two hours at most; an "
                        "hour of dryness costs most of it."),
        ]  # fmt: skip
    else:
        found += [
            Preparation("match", f"The bottle has stood to {temp}", f"Within {units.temp_step(MATCH_C)} of the tank."),
            Preparation("shake", "Shaken, and the whole dose at once", "The culture sits on the bottom of the bottle."),
        ]
    found += [
        Preparation(f"off_{device}", f"{_name(device)} off", f"On again after {days} day{'s' if days > 1 else ''}.",
                    device, days)
        for device, days in OFF_DAYS.items()
        if device in tank.devices
    ]  # fmt: skip
    found.append(Preparation("load", "Something for it to eat", "A dose or a little food the same day: it starves "
                             "otherwise."))  # fmt: skip
    return tuple(found)


def _name(device: str) -> str:
    name = dict(DEVICES)[device]
    return name[0].upper() + name[1:]


def hope(told: Bacteria, on: date, tank: Tank) -> str:
    """What a culture like this is worth before any test, in words with its number."""
    key, _ = culture_of(told, on, tank.salinity_g_kg)
    if key == "borrowed":
        words = "Borrowed media live nearly always; how much they carry, tests must say."
        jump = 0.0 if told.donor_salinity is None else abs(told.donor_salinity - tank.salinity_g_kg)
        if jump > SALT_NOTICED_G_KG:
            words += (
                f" But {figure(jump, 2)}{NBSP}g/kg between the donor tank and this one costs it much: media from "
                "water of the same salinity are what helps."
            )
        if told.donor == "sick":
            words += " A donor tank with illness gives it away with the media: better find another."
        return words
    dead = SEEDING[key].dead
    return f"A bottle like this is dead with about {percent(dead)} probability (judgement): believe tests only."


def until_for(device: str, today: date) -> date:
    return today + timedelta(days=OFF_DAYS.get(device, 1))
