"""docs/advice.md: every finding with its rule, what it does, its source and what ends it, from the table."""

from __future__ import annotations

from collections.abc import Mapping

from jarbloom.core.model.findings import ActRow, Feeding, FindingRow

GROUPS = {
    "waste": "Ammonia and nitrite",
    "tests": "Tests, and whether they can be believed",
    "chemistry": "pH, alkalinity, carbon dioxide",
    "temperature": "Temperature",
    "salt": "Salinity",
    "oxygen": "Oxygen, flow, power",
    "machines": "Equipment, and what it may do to the keeper",
    "colony": "The bloom and its home",
    "food": "Food",
    "poison": "Poison, and water that came in",
    "animals": "Animals",
}
HEAD = """# What is found about a tank

Made from `src/jarbloom/data/findings.toml` and `acts.toml` by `jarbloom findings`; the rules stand in
`src/jarbloom/core/findings`, one function for each row. All that is said of a tank follows from this one list, worked
out once for a moment: the verdict is the worst finding in words; jobs are their acts, each once, nothing that another
forbids; food is the smallest any of them allows (a pinch for fry, juveniles and fish under 3 cm, which must not fast);
the gate is shut while one of those marked so holds; tests are due as early as the most pressing of them asks. Words in
the log (`data/heard.toml`) can raise a finding; only readings, counts and time end one. Past its hours a finding fades
to a watch, then it goes. Windows and strengths are judgement unless a source is named.
"""


def advice_page(findings: Mapping[str, FindingRow], acts: Mapping[str, ActRow]) -> str:
    """The page as Markdown."""
    parts = [HEAD]
    for group, title in GROUPS.items():
        rows = [r for r in findings.values() if r.group == group]
        parts.append(f"\n## {title}\n")
        parts += [_finding(row, acts) for row in rows]
    return "\n".join(parts)


def _finding(row: FindingRow, acts: Mapping[str, ActRow]) -> str:
    does = [f"feeding: {_food(row)}"]
    does.append("the gate is shut" if row.gate else "the gate is left alone")
    if row.rhythm_days:
        does.append(f"a test at least every {row.rhythm_days:g} day{'s' if row.rhythm_days != 1 else ''}")
    if row.tests:
        does.append(f"wanted today: {', '.join(row.tests)}")
    if row.share:
        does.append(f"a water change of {100 * row.share:.0f} %")
    if row.change_most < 100:
        does.append("no water change" if row.change_most == 0 else f"no change above {row.change_most:g} %")
    lines = [
        f"### {row.title} (`{row.key}`)\n",
        f"- **{row.level.words}**. {row.why}",
        f"- Looks at: {row.looks_at}. Stands for {_stands(row)} ({row.window}).",
        f"- Does: {'; '.join(does)}.",
    ]
    if row.acts:
        lines.append(f"- First aid: {'; '.join(acts[a].title[0].lower() + acts[a].title[1:] for a in row.acts)}.")
    if row.never or row.forbids:
        lines.append(f"- Never: {'; '.join(dict.fromkeys([*row.never, *(f.replace('_', ' ') for f in row.forbids)]))}.")
    lines += [f"- Ends with: {row.ends}.", f"- Source: {row.source}.", ""]
    return "\n".join(lines)


def _food(row: FindingRow) -> str:
    return {Feeding.NONE: "none", Feeding.PINCH: "a pinch", Feeding.HALF: "half",
            Feeding.MOST: "three quarters", Feeding.USUAL: "as usual"}[row.food]  # fmt: skip


def _stands(row: FindingRow) -> str:
    hours = f"{row.hours:g} hours" if row.hours < 72 else f"{row.hours / 24:g} days"
    return hours + (f", watched for {row.watch_days:g} days more" if row.watch_days else "")
