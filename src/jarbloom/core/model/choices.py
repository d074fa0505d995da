"""What can be chosen of a tank, its kit and its water: key and words, in the order in which it is offered."""

from __future__ import annotations

KIT_KINDS = (("liquid", "liquid drops"), ("strip", "strips"), ("photometer", "photometer"))
FILTER_KINDS = (
    ("internal", "inside the tank"),
    ("canister", "closed canister"),
    ("hang_on", "hung on the rim"),
    ("sponge", "sponge with air"),
    ("sump", "in a sump"),
)
SURFACES = (("still", "still"), ("rippled", "rippled"), ("broken", "broken, or an air stone"))
CHLORINE = (
    ("unknown", "not known"),
    ("chlorine", "chlorine"),
    ("chloramine", "chloramine"),
    ("none", "none"),
)
