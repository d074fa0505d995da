"""Runs all tests with warnings as errors and closes with a line that counts them."""

from __future__ import annotations

import sys
import time
import unittest
from pathlib import Path
from typing import ClassVar

HERE = Path(__file__).parent


def main() -> int:
    begun = time.monotonic()
    found = unittest.defaultTestLoader.discover(str(HERE), pattern="test_*.py", top_level_dir=str(HERE.parent))
    if "--no-browser" in sys.argv:
        found = unittest.TestSuite(t for t in _flat(found) if ".browser." not in t.id())
    result = unittest.TextTestRunner(verbosity=1, warnings="error", resultclass=Timed).run(found)
    failed = len(result.failures) + len(result.errors)
    passed = result.testsRun - failed - len(result.skipped)
    slowest = sorted(Timed.took, reverse=True)[:8]
    print("slowest: " + ", ".join(f"{name} {seconds:.1f} s" for seconds, name in slowest))
    print(f"took {time.monotonic() - begun:.0f} s")
    print(f"{passed} passed, {failed} failed, {len(result.skipped)} skipped")
    return 1 if failed or not result.testsRun else 0


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
