"""Runs all tests with warnings as errors and closes with a line that counts them."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import ClassVar

HERE = Path(__file__).parent


def main() -> int:
    """Two halves of about the same length run beside each other: two cores, half the wait."""
    begun = time.monotonic()
    if "--no-browser" in sys.argv:
        passed, failed, skipped = run(lambda name: ".browser." not in name)
    elif OTHER_HALF in sys.argv:
        passed, failed, skipped = run(_in_other_half)
    else:
        command = [sys.executable, "-W", "error", "-m", "tests", OTHER_HALF]
        with tempfile.TemporaryDirectory(prefix="jarbloom-tests-") as shared:
            os.environ[SHARED_DEMO] = str(Path(shared, "demo"))
            Path(shared, "demo").mkdir()
            with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True) as beside:
                here = run(lambda name: not _in_other_half(name))
                told = beside.communicate()[0]
        print(told, end="")
        there = COUNTS.search(told)
        counted = tuple(int(n) for n in there.groups()) if there else (0, 1, 0)
        passed, failed, skipped = (a + b for a, b in zip(here, counted, strict=True))
        print("together:")
    print(f"took {time.monotonic() - begun:.0f} s")
    print(f"{passed} passed, {failed} failed, {skipped} skipped")
    return 1 if failed or not passed else 0


SHARED_DEMO = "JARBLOOM_TESTS_DEMO"  # as in make.py, which is loaded only with the tests
OTHER_HALF = "--other-half"
BESIDE = (".browser.", ".store.", ".formats.", ".views.", ".test_cli.", ".test_soak.")


def _in_other_half(name: str) -> bool:
    return any(part in name for part in BESIDE)


COUNTS = re.compile(r"^(\d+) passed, (\d+) failed, (\d+) skipped$", re.M)


def run(wanted: Callable[[str], bool]) -> tuple[int, int, int]:
    """(passed, failed, skipped) of the tests whose names are wanted."""
    found = unittest.defaultTestLoader.discover(str(HERE), pattern="test_*.py", top_level_dir=str(HERE.parent))
    chosen = unittest.TestSuite(t for t in _flat(found) if wanted(t.id()))
    result = unittest.TextTestRunner(verbosity=1, warnings="error", resultclass=Timed).run(chosen)
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
