"""What an own server is installed with, each with its version and licence as its maker states them: the second table of
THIRD-PARTY.md, written anew by `make licences`."""

from __future__ import annotations

import re
from importlib.metadata import PackageNotFoundError, metadata
from pathlib import Path

ROOT = Path(__file__).parents[1]
NOTICES = ROOT / "THIRD-PARTY.md"
BEGIN, END = "<!-- installed -->", "<!-- end of installed -->"
LOCKED = re.compile(r"^([A-Za-z0-9][\w.-]*)==([^\s;\\]+)", re.M)


def licence(name: str) -> str:
    """The SPDX expression where there is one, else the first line of the field, else the classifier's last part."""
    try:
        told = metadata(name)
    except PackageNotFoundError:
        return "not installed on this machine"
    if told.get("License-Expression"):
        return str(told["License-Expression"])
    kinds = [
        c.rpartition(":: ")[2]
        for c in told.get_all("Classifier") or ()
        if c.startswith("License :: ") and not c.endswith("OSI Approved")
    ]
    stated = (told.get("License") or "").strip().splitlines()
    return kinds[0] if kinds else (stated[0] if stated else "see its files")


def table() -> str:
    rows = ["| package | version | licence |", "| --- | --- | --- |"]
    for name, version in LOCKED.findall((ROOT / "requirements" / "run.lock").read_text("utf-8")):
        rows.append(f"| {name} | {version} | {licence(name)} |")
    return "\n".join(rows)


def main() -> None:
    text = NOTICES.read_text("utf-8")
    before, _, rest = text.partition(BEGIN)
    _, _, after = rest.partition(END)
    NOTICES.write_text(f"{before}{BEGIN}\n\n{table()}\n\n{END}{after}", "utf-8")


if __name__ == "__main__":
    main()
