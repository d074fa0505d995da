"""Equipment that fails, and what it may do to the keeper."""

from __future__ import annotations

from collections.abc import Iterable

from jarbloom.core.animals.names import plural
from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.kinds.fault import Fault
from jarbloom.core.model.findings import Severity

FALLS_C = 2.0


@rule("electric")
def electric(facts: Facts) -> Iterable[Found]:
    said, burns = facts.said("tingle", hours=48), facts.said("scorch", hours=48)
    faults = [e for e in facts.lately(48, Fault) if e.body.device == "electric"]
    told = []
    if burns:
        told.append("Something electric smokes or scorches, by your words: off at the board, no water on it, out of "
                    "the room, and the fire service where it burns or goes on smoking. A licensed electrician before "
                    "power returns.")  # fmt: skip
    if said or faults:
        told.append("There may be electric current in the water: off at the board before anybody touches it. After a "
                    "shock, a doctor the same day.")  # fmt: skip
    if told:
        last = max([h.at for h in (*burns, *said)] + [e.at for e in faults])
        yield Found(" ".join(told), last, (*ids(burns), *ids(said), *ids(faults)))


@rule("keeper_hurt")
def keeper_hurt(facts: Facts) -> Iterable[Found]:
    said = facts.said("keeper_hurt", hours=48)
    if said:
        yield Found("Somebody may be hurt, by your words: the person first, everything in the tank can wait. When in "
                    "doubt ask a doctor today, and mention the tank.", said[-1].at, ids(said))  # fmt: skip


@rule("polyp_poison")
def polyp_poison(facts: Facts) -> Iterable[Found]:
    """Palytoxin (docs/cautions: salt_rock). A bare stone boiled for a freshwater tank is another matter."""
    said = [h for h in facts.said("polyp_poison", hours=48) if facts.salted or h.any("polyps_named")]
    if said:
        yield Found("Rock or polyps boiled, steamed, cut or scraped, by your words: their poison goes into steam, "
                    "spray and broken skin. Everybody out, air the room, and medical help on any symptom, hours later "
                    "too.",
                    said[-1].at, ids(said))  # fmt: skip


@rule("heater_broken")
def heater_broken(facts: Facts) -> Iterable[Found]:
    said = facts.said("glass_broken", hours=48)
    faults = [e for e in facts.lately(48, Fault) if e.body.device == "heater_broken"]
    if said or faults:
        last = max([h.at for h in said] + [e.at for e in faults])
        yield Found("The heater is cracked or ran dry: electric danger in the water, whatever the temperature says.",
                    last, (*ids(said), *ids(faults)))  # fmt: skip


@rule("heater_dead")
def heater_dead(facts: Facts) -> Iterable[Found]:
    said = facts.said("lamp_dark", hours=48)
    faults = [e for e in facts.lately(48, Fault) if e.body.device == "heater_dead"]
    temp, own = facts.last("temp", 26), facts.tank.temp_c
    low, _ = facts.temp_range
    if not facts.alive or not (said or faults):
        return
    last = max([h.at for h in said] + [e.at for e in faults])
    warm_enough = temp is not None and temp.seen >= max(own - 1.0, low)
    mended = temp is not None and temp.at >= last and warm_enough
    severity = Severity.WATCH if mended else Severity.ACT
    words = f"; the water reads {facts.units.temp(temp.seen)}" if temp is not None else ""
    yield Found(f"The heater does not heat, by the log{words}: cold comes within hours.", last,
                (*ids(said), *ids(faults), *(ids((temp,)) if temp else ())), severity,
                acts=("second_thermometer", "unplug") if warm_enough else None)  # fmt: skip


@rule("lid_open")
def lid_open(facts: Facts) -> Iterable[Found]:
    faults = [e for e in facts.lately(48, Fault) if e.body.device == "lid"]
    who = next((k for k in facts.fish if k.jumps), next(iter(facts.fish), None))
    if faults and who is not None:
        yield Found(f"The lid is broken or open, and {plural(who.name, 2)} may jump: cover it before night.",
                    faults[-1].at, ids(faults))  # fmt: skip


@rule("fault_other")
def fault_other(facts: Facts) -> Iterable[Found]:
    faults = [e for e in facts.lately(48, Fault) if e.body.device == "other"]
    if faults and facts.alive:
        words = faults[-1].body.text.strip()
        told = f"“{words[:60]}” is" if words else "Something is"
        yield Found(f"{told} logged as a fault: look at flow, warmth and the animals, and log what it stopped.",
                    faults[-1].at, ids(faults))  # fmt: skip


@rule("leak")
def leak(facts: Facts) -> Iterable[Found]:
    said = facts.said("leak", hours=48)
    faults = [e for e in facts.lately(48, Fault) if e.body.device == "leak"]
    if said or faults:
        last = max([h.at for h in said] + [e.at for e in faults])
        yield Found("Water where it should not be: electrics first, then the source.", last, (*ids(said), *ids(faults)))
