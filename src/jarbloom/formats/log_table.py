"""The log of a tank as a table for a spreadsheet, CSV or XLSX: what a person reads, without what a bundle needs."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence

from jarbloom.core.model.entry import Entry
from jarbloom.formats.log_rows import COLUMNS, log_csv

_NUMBER = re.compile(r"[+\-]?\d+(\.\d+)?")
LEFT_OUT = ("supersedes", "recorded_at", "detail", "state")


def rows_of(entries: Iterable[Entry]) -> tuple[list[str], list[list[str]]]:
    """Heads and rows of the live entries; only columns in which something stands."""
    told = list(csv.DictReader(io.StringIO(log_csv(e for e in entries if e.state == "live"))))
    heads = [c for c in COLUMNS if c not in LEFT_OUT and any(row[c] for row in told)]
    return heads, [[row[c] for c in heads] for row in told]


def plain(text: str) -> str:
    """Nothing that a spreadsheet would take for a formula: such a text gets a stroke in front.

    >>> plain('=1+1'), plain('-2.5'), plain('@x'), plain('all well')
    ("'=1+1", '-2.5', "'@x", 'all well')
    """
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") and not _NUMBER.fullmatch(text) else text


def table_csv(entries: Sequence[Entry]) -> str:
    heads, rows = rows_of(entries)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(heads)
    writer.writerows([plain(cell) for cell in row] for row in rows)
    return out.getvalue()


def table_xlsx(entries: Sequence[Entry]) -> bytes:
    """Numbers as numbers, everything else as text, never as a formula."""
    from openpyxl import Workbook  # only here: it costs every start time and memory
    from openpyxl.cell import WriteOnlyCell

    heads, rows = rows_of(entries)
    book = Workbook(write_only=True)
    sheet = book.create_sheet("log")
    sheet.append(heads)
    for row in rows:
        cells = []
        for text in row:
            if _NUMBER.fullmatch(text):
                cells.append(WriteOnlyCell(sheet, float(text)))
                continue
            cell = WriteOnlyCell(sheet, re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f]", "", text)[:32_000])
            cell.data_type = "s"
            cells.append(cell)
        sheet.append(cells)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
