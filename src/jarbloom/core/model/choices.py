"""What can be chosen of a tank, its kit and its water: key and words, in the order in which it is offered."""

from __future__ import annotations

KIT_KINDS = (("liquid", "liquid drops"), ("strip", "strips"), ("photometer", "photometer"))
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
FILTER_KINDS = (
    ("internal", "inside the tank"),
    ("canister", "closed canister"),
    ("hang_on", "hung on the rim"),
    ("sponge", "sponge with air"),
    ("sump", "in a sump"),
)
# Usual waters before anything was read: words, deg C, pH, dKH, g/kg (practice)
USUAL_WATERS = {"fresh": ("fresh", 25.0, 7.4, 5.0, 0.0), "brackish": ("brackish", 26.0, 7.8, 8.0, 8.0),
                "sea": ("the sea", 25.5, 8.2, 8.0, 35.0)}  # fmt: skip
SURFACES = (("still", "still"), ("rippled", "rippled"), ("broken", "broken, or an air stone"))
CHLORINE = (
    ("unknown", "not known"),
    ("chlorine", "chlorine"),
    ("chloramine", "chloramine"),
    ("none", "none"),
)
