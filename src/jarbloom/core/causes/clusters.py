"""Signs by what they belong to: those of one cluster are one observation made several times, and count once.

Of a cluster the strongest sign counts whole and the next one half, in log odds (judgement). The boxes of the desk are
grouped by the same table.
"""

from __future__ import annotations

from collections.abc import Mapping

CLUSTERS: Mapping[str, tuple[str, ...]] = {
    "gills": ("gasp", "breath", "inflow", "redgill", "browngill", "palegill", "onegill"),
    "itch": ("flash", "clamp"),
    "marks": ("grains", "dust", "slime", "tuft", "sore", "blister", "worm_seen"),
    "shape": ("swell", "popeye", "thin", "string"),
    "unwell": ("hide", "refuse", "pale", "bottom"),
    "nerves": ("dart", "list"),
    "company": ("chase", "torn", "guard"),
    "heads": ("short_count", "gone", "heads_short"),
    "deaths": ("dead_one", "dead_many", "dead"),
    "who": ("all_once", "big_first", "invert_first", "invert_ill", "new_only", "kind_only"),
    "when": ("dawn", "noon", "after_water"),
    "water": ("milky", "green", "film", "foodleft", "smell", "foam", "eggs_smell"),
    "machine": ("weak_flow", "tingle"),
    "shells": ("moult", "snail_shut", "snail_up"),
    "corals": ("coral_shut", "bleached", "coral_bare"),
    "calm": ("calm",),
}
CLUSTER_OF: Mapping[str, str] = {token: cluster for cluster, tokens in CLUSTERS.items() for token in tokens}
# How much a sign of a cluster speaks against a cause that does not know it (a factor on its odds)
UNEXPLAINED: Mapping[str, float] = {
    "gills": 0.5, "itch": 0.6, "marks": 0.35, "shape": 0.4, "unwell": 0.8, "nerves": 0.55, "company": 0.6, "heads": 0.3,
    "deaths": 0.7, "who": 0.6, "when": 0.6, "water": 0.5, "machine": 0.3, "shells": 0.5, "corals": 0.4, "calm": 1.0,
}  # fmt: skip
# Readings that come of one cause are one piece of evidence too
READING_CLUSTERS: Mapping[str, tuple[str, ...]] = {
    "ammonia": ("tan_up", "tan_small", "tan_very_high", "nh3_high", "tan_flat", "cap_slow", "cap_none"),
    "nitrite": ("no2_up", "no2_alone"),
    "nitrate": ("no3_high", "unmoved_no3"),
    "ph": ("ph_up", "ph_down", "ph_low", "ph_high", "ph_step"),
    "kh": ("kh_low", "kh_falls", "kh_step"),
    "warmth": ("t_high", "t_low", "t_drop", "o2_low"),
    "salinity": ("sal_off", "sal_step", "sal_both", "gh_step"),
    "chlorine": ("cl_up", "cl_total_only"),
    "kit": ("one_odd", "unit_ratio", "retest_apart", "unit_match"),
}
READING_OF: Mapping[str, str] = {token: cluster for cluster, tokens in READING_CLUSTERS.items() for token in tokens}
UNEXPLAINED_READING = 0.5
