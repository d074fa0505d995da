"""What was worked out lately, kept so that the same question costs nothing the second time."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

T = TypeVar("T")


class Kept(Generic[T]):
    """The answers to the last so many questions; safe to ask from several threads."""

    def __init__(self, most: int) -> None:
        self.most, self.answers, self.lock = most, OrderedDict[Hashable, T](), Lock()

    def once(self, key: Hashable, make: Callable[[], T], keep: bool = True) -> T:
        """The answer to a question. `keep` False: what is made now may still be taken back, so it is not kept."""
        with self.lock:
            if key in self.answers:
                self.answers.move_to_end(key)
                return self.answers[key]
        made = make()
        if keep:
            with self.lock:
                self.answers[key] = made
                while len(self.answers) > self.most:
                    self.answers.popitem(last=False)
        return made
