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
        self.making: dict[Hashable, Lock] = {}

    def once(self, key: Hashable, make: Callable[[], T]) -> T:
        """The answer to a question, worked out when it was not asked lately; who asks it meanwhile waits for that."""
        found = self.get(key)
        if found is not None:
            return found
        with self.lock:
            turn = self.making.setdefault(key, Lock())
        try:
            with turn:
                found = self.get(key)
                if found is None:
                    found = make()
                    self.put(key, found)
                return found
        finally:
            with self.lock:
                self.making.pop(key, None)

    def get(self, key: Hashable) -> T | None:
        with self.lock:
            if key not in self.answers:
                return None
            self.answers.move_to_end(key)
            return self.answers[key]

    def put(self, key: Hashable, answer: T) -> None:
        with self.lock:
            self.answers[key] = answer
            while len(self.answers) > self.most:
                self.answers.popitem(last=False)
