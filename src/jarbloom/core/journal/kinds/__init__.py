"""The kinds of log entry, one class in one file each; this table finds them all."""

from __future__ import annotations

import pkgutil
from collections.abc import Mapping
from importlib import import_module

from jarbloom.core.journal.kinds.kind import Kind

_PLAIN = ("field", "kind", "choices", "animals")  # modules of this folder that are no kinds


def _found() -> dict[str, type[Kind]]:
    for module in pkgutil.iter_modules(__path__):
        if module.name not in _PLAIN:
            import_module(f"{__name__}.{module.name}")
    made, kinds = [Kind], []
    while made:
        one = made.pop()
        made += one.__subclasses__()
        kinds += [one] if one.key and one.specs is not None else []
    return {k.key: k for k in sorted(kinds, key=lambda k: (k.place, k.key))}


KINDS: Mapping[str, type[Kind]] = _found()
