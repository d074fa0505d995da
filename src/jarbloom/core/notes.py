"""Short notes that stand where they matter; the texts are rows of data/notes.toml."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Note:
    key: str
    title: str
    text: str
