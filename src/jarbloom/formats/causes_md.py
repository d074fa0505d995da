"""docs/upsets.md: every cause with its signs, windows, checks and courses, from the tables."""

from __future__ import annotations

from collections.abc import Mapping

from jarbloom.core.model.causes import Aid, CauseRow, Causes, DeskCheck
from jarbloom.core.model.courses import CourseRow
from jarbloom.core.model.findings import ActRow

HEAD = """# What goes wrong, and how it is told apart

Made from `src/jarbloom/data/causes.toml`, `desk_checks.toml`, `first_aid.toml` and `courses.toml` by `jarbloom
causes`; the ranking stands in `src/jarbloom/core/causes`. Everything here is general practice and judgement unless
a source is named: no strength, no window is a measurement. No row names a drug or a dose: medicine belongs to a vet
or fish-health professional.

How it is ranked: strengths 3, 2 and 1 are likelihood ratios of about 8, 3 and 1.5, added as log odds to how often
such upsets happen in a tank of that age. Signs of one cluster (gills, itch, marks, shape and so on) are one sign
seen several times: the strongest counts whole, the next half. What a cause does not know speaks against it, a
strong sign that is not there a little. A trigger in the log counts most inside its window of onset. The desk tells
a word and a bar, never a percentage; what endangers most is named even where it is less likely; when the first two
are within a factor of two it says so and gives the check.

How the next check is chosen: the expected information of its answers about the ranking, against minutes, price and
stress to the animals; what the likely causes name themselves counts more; nothing that nets animals comes first.

First aid is what helps under one of the leading causes (all above a tenth of the best, and the dangerous ones above
three hundredths) and harms under none of them; the rest is held back with its reason. Amounts come from the
assessment.
"""


def upsets_page(
    causes: Causes, courses: Mapping[str, CourseRow], acts: Mapping[str, ActRow], says: Mapping[str, str]
) -> str:
    """The page as Markdown. `says`: the words of signs and events by key."""
    tokens = {a.token: f"{c.title.lower()}: {a.label}" for c in causes.checks.values() for a in c.answers}
    words = {**tokens, **says}
    parts = [HEAD]
    for group in causes.groups.values():
        rows = [r for r in causes.rows.values() if r.group == group.key]
        parts.append(
            f"\n## {group.title}\n\nOf 100 upsets about {group.young:g} in tanks under sixty days, {group.old:g} in "
            f"older ones. First aid: {_acts(group.acts, acts)}. Never: {'; '.join(group.never)}. {group.course}"
            f"{' ' + group.help if group.help else ''} Look again after {group.again_h:g} h.\n"
        )
        parts += [_cause(row, causes, acts, words) for row in rows]
    parts.append(COURSES)
    parts += [_course(c, causes) for c in courses.values()]
    parts.append("\n## Checks\n")
    parts += [_check(c) for c in causes.checks.values()]
    parts.append("\n## What first aid helps, and when it harms\n")
    parts += [_aid(a, acts, causes, words) for a in causes.aid.values()]
    return "\n".join(parts).rstrip() + "\n"


COURSES = """
## Next hours and days

From `src/jarbloom/data/courses.toml`; what stands in braces is worked out for the tank (`core/causes/clocks.py`):

- **Oxygen after a power cut**: dO/dt = k (saturation - O) - R/V, k = K_L A/V with K_L 0.5 m/day still and 1.5
  rippled; R is 0.3 mg an hour for each g of animals at 25 C (twice that for ten degrees more) and 0.2 mg for
  each litre of tank; critical 3 mg/L, 4 for tender ones and corals. 100 L, 0.30 m2, 200 g, 25 C from 7.5 mg/L:
  7.5 h; in sea water from 6.2: 4.9 h; rippled: no end. Half is promised.
- **Heat and cold**: cooled by 1 C an hour and 4 C a day at most, warmed by 1 C an hour (0.5 for eel-like and
  tender ones) and 4 C a day.
- **Alkalinity** by 1 dKH and **salinity** by 1 g/kg a day at most (fish alone 2 upwards).
- **Poison**: the change of the job list and as much an hour apart, then a third on three days.
- **Feeding again**: a quarter to the second clean day after an upset, half to the fourth, three quarters to the
  seventh.
- **Water changes** are solved on members of the forecast: the smallest share, in steps of a twentieth from a
  tenth up, after which nine in ten stay under the limits until the next moment at home; at most the school's
  share, the water that is ready, a step of 0.5 pH and 3 dKH (0.3 and 1.5 for tender animals), unless free
  ammonia is over 0.2 mg/L, and never one that frees more ammonia than it takes out. A reading within six hours of
  one before a change is read together with it: the water holds no more than the upper edge of the earlier one, thinned
  by the change, and what came in since; where the two exclude each other, the later one counts. Once water was
  changed over a reading, whether it needs to be again is asked of the members: they have heard all readings, and where
  nearly all of them (97.5 in 100) leave less room than the kit's step, theirs is its upper edge; a clean test bounds
  them. How large it is follows the whole step: one that had to be made again would be the greater strain.
- **Repeated first**: a reading on the kit's first step over clean that fewer than three in ten members are over, where
  nothing in the log explains it, or the test before it, of the same day, was clean and nothing has happened since; it
  does not harm within hours. Two act.
- **Looked at again**: two hours after a change; the next morning (twelve hours on, in the hours at home) where a
  doubted reading was repeated lower, where the limit is read and no change is worth its strain, or where ammonia has
  come up since the test before.
"""


def _course(row: CourseRow, causes: Causes) -> str:
    of = ", ".join(causes.rows[k].title.lower() for k in row.causes)
    steps = "\n".join(f"  - {_hours(h) if h else 'now'}: {text}" for h, text in row.steps)
    return f"- **{row.title}**" + (f" ({of})" if of else "") + f"\n{steps}"


def _acts(keys: tuple[str, ...], acts: Mapping[str, ActRow]) -> str:
    return "; ".join(acts[k].title[0].lower() + acts[k].title[1:] for k in keys)


def _named(tokens: Mapping[str, float], words: Mapping[str, str]) -> str:
    ordered = sorted(tokens.items(), key=lambda x: -x[1])
    return "; ".join(f"{words.get(t, t.replace('_', ' '))} ({s:g})" for t, s in ordered if s)


def _cause(row: CauseRow, causes: Causes, acts: Mapping[str, ActRow], words: Mapping[str, str]) -> str:
    first, usual, last = row.onset_h
    after = ", ".join(words.get(t, t.replace("_", " ")) for t in row.after)
    lines = [f"### {row.title} (`{row.key}`)\n", f"- {row.says} Hits: {', '.join(row.hits)}."]
    if after:
        onset = f"{_hours(first)} to {_hours(last)}, usually {_hours(usual)}"
        needed = "; hardly without one" if row.needs_trigger else ""
        lines.append(f"- After: {after}; first signs {onset} later{needed}.")
    lines.append(f"- For: {_named(row.supports, words)}.")
    if row.opposes:
        lines.append(f"- Against: {_named(row.opposes, words)}.")
    lines.append(f"- Told apart: {row.tell} Checks: {', '.join(causes.checks[c].title for c in row.checks)}.")
    if row.acts:
        lines.append(f"- First aid of its own: {_acts(row.acts, acts)}.")
    if row.special:
        lines.append(f"- {row.special}")
    if row.urgent_vet:
        lines.append("- A vet the same day.")
    lines += [f"- Prevention: {row.prevent}", f"- Source: {row.source}.", ""]
    return "\n".join(lines)


def _hours(hours: float) -> str:
    if hours < 1:
        return "minutes" if hours else "at once"
    if hours < 48:
        return f"{hours:g} h"
    return f"{hours / 24:.0f} days" if hours < 24 * 60 else f"{hours / 24 / 30:.0f} months"


def _check(check: DeskCheck) -> str:
    stress = ("", ", disturbs a little", ", nets animals")[check.stress]
    answers = " · ".join(a.label for a in check.answers)
    return f"- **{check.title}** ({check.minutes:g} min{stress}). {check.how} Answers: {answers}."


def _aid(aid: Aid, acts: Mapping[str, ActRow], causes: Causes, words: Mapping[str, str]) -> str:
    helps = ", ".join(_title(k, causes, words) for k in aid.helps)
    harms = "; ".join(f"{_title(what, causes, words)}: {why}" for what, why in aid.harms)
    return f"- **{acts[aid.act].title}**. Helps with: {helps}." + (f" Held back with {harms}." if harms else "")


def _title(key: str, causes: Causes, words: Mapping[str, str]) -> str:
    if key in causes.rows:
        return causes.rows[key].title.lower()
    return causes.groups[key].title.lower() if key in causes.groups else words.get(key, key.replace("_", " "))
