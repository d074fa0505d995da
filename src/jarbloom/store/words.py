"""The search of the log book: entries of a tank in which words stand."""

from __future__ import annotations

import re
import sqlite3

MOST_WORDS = 8


def words_of(text: str) -> list[str]:
    """The words that are looked for, without signs."""
    return re.findall(r"[^\W_]+", text.lower())[:MOST_WORDS]


def with_word(conn: sqlite3.Connection, tank_id: int, word: str) -> set[int]:
    """Ids of entries, live or not, in whose kind, note, keeper or texts a word begins so."""
    rows = conn.execute(
        """SELECT id FROM entry
           WHERE tank_id = :tank AND id IN (SELECT rowid FROM entry_words WHERE entry_words MATCH :wanted)""",
        {"wanted": f'"{word}"*', "tank": tank_id},
    )
    return {row["id"] for row in rows}
