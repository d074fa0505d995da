"""Imports point one way: a module imports only from lower floors, or its own; inside the core, from lower rooms."""

import ast
import re
import unittest
from collections.abc import Iterator
from pathlib import Path

SRC = Path(__file__).parent.parent / "src" / "jarbloom"
FLOORS = {
    "errors": 0,
    "units": 0,
    "manner": 0,
    "kept": 0,
    "special": 0,
    "loading": 0,
    "patterns": 0,
    "core": 1,
    "data": 1,
    "store": 2,
    "formats": 2,
    "devices": 2,
    "settings": 2,
    "deeds": 3,
    "views": 3,
    "web": 4,
    "cli": 5,
    "commands": 5,
    "__main__": 5,
    "__init__": 0,
}
APART = {("views", "deeds"), ("deeds", "views"), ("formats", "store"), ("store", "formats"), ("core", "data")}
ROOMS = {  # of a floor, the lowest first
    "core": (
        "model",
        "water",
        "vessel",
        "animals",
        "journal",
        "bloom",
        "upset",
        "findings",
        "causes",
        "stocking",
        "setup",
        "history",
        "advice",
    ),
    "views": ("drawn", "tank", "stocking", "setup", "house"),
}


def modules() -> Iterator[tuple[Path, tuple[str, ...]]]:
    for path in SRC.rglob("*.py"):
        yield path, path.relative_to(SRC).with_suffix("").parts


def imports(path: Path) -> list[tuple[int, tuple[str, ...]]]:
    """(line, parts of the module below jarbloom) of everything of ours that a file imports."""
    found = []
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("jarbloom."):
            base = tuple(node.module.split(".")[1:])
            found += [(node.lineno, (*base, a.name)) for a in node.names]
        elif isinstance(node, ast.ImportFrom) and node.module == "jarbloom":
            found += [(node.lineno, (a.name,)) for a in node.names if a.name in FLOORS]
        elif isinstance(node, ast.Import):
            found += [(node.lineno, tuple(a.name.split(".")[1:])) for a in node.names if a.name.startswith("jarbloom.")]
    return found


class Floors(unittest.TestCase):
    def test_no_import_points_up(self) -> None:
        wrong = []
        for path, here in modules():
            for line, there in imports(path):
                if FLOORS[there[0]] > FLOORS[here[0]] or (here[0], there[0]) in APART:
                    wrong.append(f"{path.relative_to(SRC)}:{line} imports {there[0]}")
        self.assertEqual(wrong, [])

    def test_pages_and_forms_ask_deeds_not_the_store(self) -> None:
        opens = {"app", "deps", "guard", "rounds"}  # they open the database
        wrong = []
        for path, here in modules():
            if here[0] == "web" and here[-1] not in opens:
                wrong += [f"{path.relative_to(SRC)}:{line}" for line, there in imports(path) if there[0] == "store"]
        self.assertEqual(wrong, [])

    def test_every_source_that_is_cited_is_there(self) -> None:
        cited = re.compile(r"docs/(\w+)\.md, ([\w -]+)")
        wrong = []
        for path, _ in modules():
            for page, heading in cited.findall(path.read_text("utf-8")):
                text = (SRC.parents[1] / "docs" / f"{page}.md").read_text("utf-8").lower()
                if not re.search(rf"^##+ .*{re.escape(heading.strip().lower())}", text, re.M):
                    wrong.append(f"{path.relative_to(SRC)}: {page}.md, {heading}")
        self.assertEqual(wrong, [])

    def test_no_import_between_rooms_points_up(self) -> None:
        wrong = []
        for path, here in modules():
            rooms = ROOMS.get(here[0], ())
            if not rooms or len(here) < 3:
                continue
            for line, there in imports(path):
                if there[0] == here[0] and rooms.index(there[1]) > rooms.index(here[1]):
                    wrong.append(f"{path.relative_to(SRC)}:{line} imports {there[1]}")
        self.assertEqual(wrong, [])

    def test_every_module_stands_in_a_room(self) -> None:
        loose = {
            here[:2]
            for _, here in modules()
            if here[0] in ROOMS and here[1] != "__init__" and here[1] not in ROOMS[here[0]]
        }
        self.assertEqual(loose, set())

    def test_templates_can_be_read(self) -> None:
        long = [
            f"{path.relative_to(SRC)}:{k}"
            for path in (SRC / "web" / "templates").rglob("*.html")
            for k, line in enumerate(path.read_text("utf-8").splitlines(), 1)
            if len(line) > 170
        ]
        self.assertEqual(long, [])

    def test_what_is_compiled_takes_nothing_from_other_files(self) -> None:
        """It is compiled anew only when its own file changes: a constant from elsewhere would stay what it was."""
        self.assertEqual(imports(SRC / "core" / "bloom" / "kernel.py"), [])

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

    def test_the_evening_is_the_same_by_choice_and_by_the_devices_wish(self) -> None:
        css = (SRC / "web" / "static" / "tokens.css").read_text("utf-8")
        chosen, wished = (
            re.search(rf"\[data-bs-theme={t}\]\{{(.*?)\n\}}", css, re.S)[1] for t in ("evening", "device")
        )
        self.assertIn("--jb-film", chosen)
        self.assertEqual(chosen, wished)
