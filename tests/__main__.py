"""Runs all tests with warnings as errors and closes with a line that counts them."""

from __future__ import annotations

import gc
import os
import re
import subprocess
import sys
import tempfile
import time
import unittest
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import ClassVar

HERE = Path(__file__).parent


def main() -> int:
    """Three processes share the tests: they begin at the front, in the middle and at the back, and each takes what none
    of the others has begun. Many a test waits for a browser or a server: two cores have room for a third."""
    begun = time.monotonic()
    gc.set_threshold(30_000, 10, 10)  # much is made and little is round: looking less often saves a twentieth
    if "--no-browser" in sys.argv:
        passed, failed, skipped = run([t for t in _in_order() if ".browser." not in t.id()])
    elif begins := next((b for b in BESIDE if b in sys.argv), ""):
        passed, failed, skipped = run(Unclaimed(_in_order(), begins))
    else:
        command = [sys.executable, "-W", "error", "-m", "tests"]
        with tempfile.TemporaryDirectory(prefix="jarbloom-tests-") as shared:
            os.environ |= {SHARED_DEMO: str(Path(shared, "demo")), CLAIMS: str(Path(shared, "claims"))}
            Path(shared, "demo").mkdir()
            Path(shared, "claims").mkdir()
            beside = [
                subprocess.Popen([*command, b], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
                for b in BESIDE
            ]
            counted = [run(Unclaimed(_in_order()))]
            for told in [process.communicate()[0] for process in beside]:
                print(told, end="")
                there = COUNTS.search(told)
                counted.append(tuple(int(n) for n in there.groups()) if there else (0, 1, 0))  # type: ignore[arg-type]
        passed, failed, skipped = (sum(c) for c in zip(*counted, strict=True))
        print("together:")
    print(f"took {time.monotonic() - begun:.0f} s")
    print(f"{passed} passed, {failed} failed, {skipped} skipped")
    return 1 if failed or not passed else 0


SHARED_DEMO = "JARBLOOM_TESTS_DEMO"  # as in make.py, which is loaded only with the tests
CLAIMS = "JARBLOOM_TESTS_CLAIMS"
BESIDE = FROM_THE_BACK, FROM_THE_MIDDLE = "--from-the-back", "--from-the-middle"
LAST = (".browser.", ".test_cli.", ".test_soak.")  # what waits for other processes begins at once, from the back
COUNTS = re.compile(r"^(\d+) passed, (\d+) failed, (\d+) skipped$", re.M)


def _in_order() -> list[unittest.TestCase]:
    found = unittest.defaultTestLoader.discover(str(HERE), pattern="test_*.py", top_level_dir=str(HERE.parent))
    return sorted(_flat(found), key=lambda t: any(part in t.id() for part in LAST))


class Unclaimed(unittest.TestSuite):
    """The classes of tests that no other process has taken, each claimed as its turn comes."""

    _cleanup = False  # nothing is taken out of the suite once it ran: it does not know beforehand what it will run

    def __init__(self, tests: Iterable[unittest.TestCase], begins: str = "") -> None:
        super().__init__()
        self.begins = begins
        self.by_class: dict[str, list[unittest.TestCase]] = {}
        for test in tests:
            self.by_class.setdefault(test.id().rpartition(".")[0], []).append(test)

    def __iter__(self) -> Iterator[unittest.TestCase]:
        turns = list(self.by_class.items())
        middle = len(turns) // 2
        order = {FROM_THE_BACK: turns[::-1], FROM_THE_MIDDLE: turns[middle:] + turns[:middle]}
        for name, tests in order.get(self.begins, turns):
            try:
                Path(os.environ[CLAIMS], name).touch(exist_ok=False)
            except FileExistsError:
                continue
            yield from tests


def run(tests: Iterable[unittest.TestCase]) -> tuple[int, int, int]:
    """(passed, failed, skipped) of the tests."""
    suite = tests if isinstance(tests, unittest.TestSuite) else unittest.TestSuite(tests)
    result = unittest.TextTestRunner(verbosity=1, warnings="error", resultclass=Timed).run(suite)
    failed = len(result.failures) + len(result.errors)
    slowest = sorted(Timed.took, reverse=True)[:8]
    print("slowest: " + ", ".join(f"{name} {seconds:.1f} s" for seconds, name in slowest))
    return result.testsRun - failed - len(result.skipped), failed, len(result.skipped)


class Timed(unittest.TextTestResult):
    """Keeps how long each test took, to see where the time goes. Nothing is judged by it."""

    took: ClassVar[list[tuple[float, str]]] = []

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        self.begun = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        Timed.took.append((time.monotonic() - self.begun, test.id().removeprefix("tests.")))
        super().stopTest(test)


def _flat(suite: unittest.TestSuite) -> list[unittest.TestCase]:
    return [t for part in suite for t in (_flat(part) if isinstance(part, unittest.TestSuite) else [part])]


if __name__ == "__main__":
    sys.exit(main())
