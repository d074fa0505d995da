"""The report of a tank as Markdown, to be pasted where people ask for help."""

from __future__ import annotations

import re

from jarbloom.core.advice.report import Report


def report_md(r: Report) -> str:
    lines = [f"# {_plain(r.name)}, {r.span}", "", _plain(r.verdict), "", "## Tank", ""]
    lines += [f"- {label}: {_plain(value)}" for label, value in (*r.facts, *r.numbers)]
    lines += ["", "## Who lives there", "", *(f"- {_plain(a)}" for a in r.living or ("nobody yet",))]
    if r.readings:
        lines += [
            "",
            "## Readings",
            "",
            f"| when | {' | '.join(r.quantities)} |",
            f"| --- |{' --- |' * len(r.quantities)}",
        ]
        lines += [f"| {row.when} | {' | '.join(_plain(t) for t in row.typed)} |" for row in r.readings]
    if r.done:
        lines += ["", "## What was done", ""]
        lines += [f"- {day}: {_plain('; '.join(done))}" for day, done in r.done]
    return "\n".join(lines).replace("\u00a0", " ") + "\n"


def _plain(text: str) -> str:
    """In one line, with the signs of Markdown and of HTML taken as letters."""
    return re.sub(r"([\\`*_\[\]<>|#])", r"\\\1", " ".join(text.split(" "))).replace("\n", " ")
