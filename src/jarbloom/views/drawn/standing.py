"""What was drawn of a standing, kept as long as that standing is: within its minute a page is asked for more than once,
by several devices and by htmx, and neither a standing nor a drawing of it ever changes."""

from __future__ import annotations

import weakref
from collections.abc import Callable, Hashable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar

S = TypeVar("S")
P = ParamSpec("P")
T = TypeVar("T")


class Drawings:
    """Answers by the very object that they were drawn of, which is not kept alive by them."""

    def __init__(self) -> None:
        self._kept: dict[int, tuple[weakref.ref[Any], dict[Hashable, Any]]] = {}

    def once(self, standing: object, how: Hashable, draw: Callable[[], T]) -> T:
        """What `draw` makes of a standing, made when it was not yet drawn like this."""
        key = id(standing)
        known = self._kept.get(key)
        if known is None or known[0]() is not standing:
            known = self._kept[key] = (weakref.ref(standing, lambda gone: self._forget(key, gone)), {})
        found = known[1]
        if how not in found:
            found[how] = draw()
        made: T = found[how]
        return made

    def latest(self, standing: object, slot: Hashable, how: Hashable, draw: Callable[[], T]) -> T:
        """As `once`, for drawings of a slot that depend on more than the standing: the last one only is kept, and it is
        made anew as soon as `how` differs."""
        kept: list[tuple[Hashable, T]] = self.once(standing, slot, list)
        if not kept or kept[0][0] != how:
            kept[:] = [(how, draw())]
        return kept[0][1]

    def _forget(self, key: int, gone: weakref.ref[Any]) -> None:
        known = self._kept.get(key)
        if known is not None and known[0] is gone:  # a new one may have got the number of one that is gone
            del self._kept[key]


def drawn_once(draw: Callable[Concatenate[S, P], T]) -> Callable[Concatenate[S, P], T]:
    """`draw` of a standing and of plain arguments, kept with that standing."""
    kept = Drawings()

    @wraps(draw)
    def drawn(standing: S, /, *args: P.args, **named: P.kwargs) -> T:
        how = (args, tuple(sorted(named.items())))
        return kept.once(standing, how, lambda: draw(standing, *args, **named))

    return drawn
