"""Words to choose from that more than one place knows: devices, signs, how cultures and rock come."""

from __future__ import annotations

from collections.abc import Mapping

SIGNS: Mapping[str, str] = {
    "gasping": "gasping at the surface",
    "dawn": "at the surface at dawn",
    "fast_gills": "breathing fast",
    "lying": "lying on the bottom",
    "listing": "on its side, head down or floating",
    "clamped": "fins clamped",
    "torn": "fins or skin torn",
    "flashing": "rubbing on objects",
    "darting": "darting or jumping",
    "hiding": "hiding",
    "not_eating": "not eating",
    "red_gills": "gills red or brown",
    "spots": "white spots or a velvet film",
    "milky": "water milky",
    "green": "water green",
    "film": "film on the water",
    "foam": "foam that stays",
    "smell": "smell",
    "deaths": "animals found dead",
}
DEVICES = (
    ("skimmer", "protein skimmer"),
    ("uv", "UV lamp"),
    ("carbon", "carbon or other chemical media"),
    ("ozone", "ozone"),
    ("pump", "flow pump"),
    ("filter", "filter"),
)
BRED = (("yes", "yes"), ("no", "caught in the wild"))
