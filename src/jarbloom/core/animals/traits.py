"""What people look for in plain words: 'peaceful', 'small', 'cleans algae', 'for soft water', 'centrepiece'. Each is a
rule on the row of a species; the bounds are judgement."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from jarbloom.core.model.species import Species


@dataclass(frozen=True)
class Trait:
    """`words`: a pattern in what is typed; `says`: how it is read back."""

    words: str
    says: str
    holds: Callable[[Species], bool]


TINY_CM, SMALL_CM, LARGE_CM = 3.0, 5.0, 12.0
CENTRE_CM, SHRIMP_MOUTH = 4.5, 0.06  # from here on it is looked at; a gape that takes no grown shrimp
SOFT_DGH, SOFT_PH, HARD_DGH, HARD_PH = 5.0, 6.7, 18.0, 7.6


def _centre(k: Species) -> bool:
    """One or a pair that is looked at first, and lets the others be."""
    bears_company = k.temperament in ("peaceful", "semi-peaceful", "territorial")
    seen = k.zone in ("top", "middle", "open") or (k.zone in ("bottom", "rock") and k.order == "last")
    return (
        k.group == "fish"
        and k.group_min <= 2
        and k.adult_cm >= CENTRE_CM
        and bears_company
        and seen
        and not k.nocturnal
    )


TRAITS: Mapping[str, Trait] = {
    "peaceful": Trait(r"peaceful|calm|gentle|friendly|community", "peaceful",
                      lambda k: k.temperament == "peaceful" and k.territory != "strong" and k.nips_fins == "no"),
    "tiny": Trait(r"tiny|nano", "tiny", lambda k: k.adult_cm <= TINY_CM),
    "small": Trait(r"small|little", "small", lambda k: k.adult_cm <= SMALL_CM),
    "large": Trait(r"large|big", "large", lambda k: k.adult_cm >= LARGE_CM),
    "algae": Trait(r"(?:cleans?|eats?|for|against)\s+(?:the\s+)?(?:algae|glass)|algae\s*(?:eaters?|cleaners?|crew)?|"
                   r"clean(?:ing|up|-up)?\s*(?:crew|up)?", "eats algae",
                   lambda k: k.moves and "alga" in k.feeding and k.diet in ("herbivore", "detritivore", "omnivore")),
    "soft": Trait(r"(?:for\s+)?soft\s+water|soft", "for soft water",
                  lambda k: k.salt_high <= 1 and k.gh_low <= SOFT_DGH and k.ph_low <= SOFT_PH),
    "hard": Trait(r"(?:for\s+)?hard\s+water|hard", "for hard water",
                  lambda k: k.salt_low < 1 and k.gh_high >= HARD_DGH and k.ph_high >= HARD_PH),
    "centre": Trait(r"cent(?:re|er)\s*-?piece|show\s*(?:fish|piece)|eye\s*-?catcher", "a centrepiece", _centre),
    "easy": Trait(r"easy|hardy|robust|for\s+beginners?|beginners?", "easy to keep",
                  lambda k: k.care == "easy" and k.hardiness != "delicate"),
    "shoal": Trait(r"shoal(?:ing|s)?|school(?:ing|s)?|swarm", "lives in a shoal", lambda k: k.group_min >= 6),
    "alone": Trait(r"alone|single|on\s+its\s+own", "lives alone or in a pair", lambda k: k.group_min <= 2),
    "shrimp_safe": Trait(r"shrimp[\s-]*safe|safe\s+(?:with|for)\s+shrimp", "leaves shrimp alone",
                         lambda k: not k.eats_invertebrates and k.mouth_ratio <= SHRIMP_MOUTH),
    "plant_safe": Trait(r"plant[\s-]*safe|safe\s+(?:with|for)\s+plants", "leaves plants alone",
                        lambda k: not k.eats_plants and not k.digs),
    "reef_safe": Trait(r"reef[\s-]*safe", "leaves corals alone", lambda k: k.reef == "yes"),
    "night": Trait(r"nocturnal|by\s+night|at\s+night", "active by night", lambda k: k.nocturnal),
    "tank_bred": Trait(r"tank[\s-]*bred|captive[\s-]*bred", "tank-bred", lambda k: k.tank_bred == "common"),
}  # fmt: skip
# Words that say nothing of an animal
_FILL = re.compile(r"\b(?:a|an|the|some|that|which|who|for|with|and|my|tank|animals?|something|please|water|not too)\b")


def traits_in(text: str) -> tuple[tuple[str, ...], str]:
    """(traits that the words ask for, what is left of the words)."""
    left, found = f" {text.lower()} ", []
    for key, trait in TRAITS.items():
        after = re.sub(rf"(?<![\w-])(?:{trait.words})(?![\w-])", " ", left)
        if after != left:
            found.append(key)
            left = after
    return tuple(found), " ".join(_FILL.sub(" ", left).split())
