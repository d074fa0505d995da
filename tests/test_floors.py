"""Imports point one way: a module imports only from lower floors, or its own."""

import ast
import re
import unittest
from pathlib import Path

SRC = Path(__file__).parent.parent / "src" / "jarbloom"
FLOORS = {
    "settings": 0,
    "errors": 0,
    "units": 0,
    "core": 1,
    "data": 1,
    "store": 2,
    "formats": 2,
    "devices": 2,
    "deeds": 3,
    "views": 3,
    "web": 4,
    "cli": 5,
    "__main__": 5,
    "__init__": 0,
}
APART = {("views", "deeds"), ("deeds", "views"), ("formats", "store"), ("store", "formats"), ("core", "data")}


def room(path: Path) -> str:
    inside = path.relative_to(SRC)
    return inside.parts[0] if len(inside.parts) > 1 else inside.stem


def imports(path: Path) -> list[tuple[int, str]]:
    found = []
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("jarbloom."):
            found.append((node.lineno, node.module.split(".")[1]))
        elif isinstance(node, ast.ImportFrom) and node.module == "jarbloom":
            found += [(node.lineno, a.name) for a in node.names if a.name in FLOORS]
        elif isinstance(node, ast.Import):
            found += [(node.lineno, a.name.split(".")[1]) for a in node.names if a.name.startswith("jarbloom.")]
    return found


class Floors(unittest.TestCase):
    def test_no_import_points_up(self) -> None:
        wrong = []
        for path in SRC.rglob("*.py"):
            here = room(path)
            for line, there in imports(path):
                if FLOORS[there] > FLOORS[here] or (here, there) in APART:
                    wrong.append(f"{path.relative_to(SRC)}:{line} imports {there}")
        self.assertEqual(wrong, [])

    def test_the_core_has_no_clock_and_no_files(self) -> None:
        wrong = []
        for path in (SRC / "core").rglob("*.py"):
            text = path.read_text("utf-8")
            wrong += [
                f"{path.name}: {word}"
                for word in (
                    "datetime.now",
                    "date.today",
                    r"(?<!def )\bopen\(",
                    "sqlite3",
                    "fastapi",
                    "jinja2",
                    "import logging",
                    "time.time",
                )
                if re.search(word, text)
            ]
        self.assertEqual(wrong, [])
