"""Tables out of a file of any spreadsheet: CSV of any delimiter and usual encoding, and XLSX. Cells come as text."""

from __future__ import annotations

import csv
import io
import warnings
import zipfile
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time

from jarbloom.errors import Refused
from jarbloom.units import figure

MOST_BYTES = 12_000_000
MOST_UNPACKED = 200_000_000
MOST_ROWS = 20_000
MOST_COLUMNS = 60
MOST_SHEETS = 40
LONGEST_CELL = 2_000
DELIMITERS = (",", ";", "\t", "|")


@dataclass(frozen=True)
class Table:
    """`name`: of its sheet, with a number where a sheet holds several. Rows are of one length; the first is `head`."""

    name: str
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


def tables(content: bytes, name: str = "") -> tuple[Table, ...]:
    """Every table of a file with a head and at least one row, the largest first. Raises Refused with a sentence."""
    if not content.strip():
        raise Refused("That file is empty.", "file")
    if len(content) > MOST_BYTES:
        raise Refused(
            f"That file is {len(content) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB can be read.", "file"
        )
    if content[:4] == b"PK\x03\x04":
        sheets = _xlsx(content)
    elif content[:8] == b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1":
        raise Refused("That is a spreadsheet of an old format; save it as XLSX or CSV first.", "file")
    else:
        sheets = [(name, _csv(text(content)))]
    found = [t for sheet, rows in sheets for t in _blocks(sheet, rows)]
    if not found:
        raise Refused("No table was found in it: a line of headings, and rows of at least two columns below.", "file")
    return tuple(sorted(found, key=lambda t: -len(t.rows)))


def text(content: bytes) -> str:
    """As UTF-8, UTF-16 by its mark, else as the usual western one. Raises Refused for what is no text."""
    for mark, encoding in ((b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"), (b"\xef\xbb\xbf", "utf-8-sig")):
        if content.startswith(mark):
            return content.decode(encoding, "replace")
    try:
        found = content.decode("utf-8")
    except UnicodeDecodeError:
        found = content.decode("cp1252", "replace")
    if "\x00" in found or sum(not c.isprintable() and c not in "\r\n\t" for c in found[:4000]) > 40:
        raise Refused("That is no table that can be read; CSV and XLSX can.", "file")
    return found


def _csv(told: str) -> list[list[str]]:
    csv.field_size_limit(LONGEST_CELL * 20)
    lines = [line for line in told.splitlines()[:60] if line.strip()]
    # The delimiter that parts the most lines into the same number of cells
    best = max(DELIMITERS, key=lambda d: _agreement(lines, d))
    try:
        return _bounded(csv.reader(io.StringIO(told, newline=""), delimiter=best, skipinitialspace=True))
    except csv.Error as problem:
        raise Refused(f"The table cannot be read: {problem}.", "file") from None


def _agreement(lines: Sequence[str], delimiter: str) -> tuple[float, int]:
    try:
        widths = Counter(len(row) for row in csv.reader(lines, delimiter=delimiter) if len(row) > 1)
    except csv.Error:
        return 0.0, 0
    if not widths:
        return 0.0, 0
    width, n = widths.most_common(1)[0]
    return n / max(len(lines), 1), width


def _bounded(rows: Iterable[Sequence[object]]) -> list[list[str]]:
    found: list[list[str]] = []
    for row in rows:
        if len(found) >= MOST_ROWS:
            raise Refused(f"The table has more than {MOST_ROWS:,} rows; cut it into several files.", "file")
        cells = [_cell(v) for v in row[: MOST_COLUMNS + 1]]
        while cells and not cells[-1]:
            cells.pop()
        if len(cells) > MOST_COLUMNS:
            raise Refused(f"The table has more than {MOST_COLUMNS} columns.", "file")
        found.append(cells)
    return found


def _cell(value: object) -> str:
    """As text: dates by ISO 8601, numbers as short as they are exact."""
    if value is None:
        return ""
    if isinstance(value, datetime):
        whole = value.replace(microsecond=0)
        return whole.date().isoformat() if whole.time() == time(0) else whole.isoformat(" ", "minutes")
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, time):
        return value.isoformat("minutes")
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return figure(value, 6).replace("−", "-")
    return " ".join(str(value).split())[:LONGEST_CELL]


# All that a damaged workbook may raise while it is opened and read
_BROKEN = (zipfile.BadZipFile, OSError, ValueError, KeyError, TypeError, IndexError,
           AttributeError, RuntimeError, NotImplementedError, EOFError, SyntaxError)  # fmt: skip


def _xlsx(content: bytes) -> list[tuple[str, list[list[str]]]]:
    from openpyxl import load_workbook  # only here: it costs every start time and memory
    from openpyxl.utils.exceptions import InvalidFileException

    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            if sum(_counted(archive, i) for i in archive.infolist()) > MOST_UNPACKED:
                raise Refused("That workbook is far too large when unpacked.", "file")
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of styles and pictures that are not looked at
            book = load_workbook(io.BytesIO(content), read_only=True, data_only=True, keep_links=False)
            try:
                return [
                    (sheet.title, _bounded(sheet.iter_rows(values_only=True)))
                    for sheet in book.worksheets[:MOST_SHEETS]
                ]
            finally:
                book.close()
    except Refused:
        raise
    except (*_BROKEN, InvalidFileException):
        raise Refused("That workbook cannot be read; save it as XLSX or CSV anew.", "file") from None


def _counted(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> int:
    """Bytes as they come out, whatever the archive says of them; counted no further than the limit."""
    n = 0
    with archive.open(info) as packed:
        while (piece := packed.read(1 << 20)) and n <= MOST_UNPACKED:
            n += len(piece)
    return n


def _blocks(name: str, rows: list[list[str]]) -> list[Table]:
    """Tables that empty rows part. A head is the first row of a block with at least two cells; a title above it, and a
    second line of a head that was merged, are passed over."""
    found: list[Table] = []
    block: list[list[str]] = []
    for row in [*rows, []]:
        if any(row):
            block.append(row)
            continue
        if table := _table(name, block):
            found.append(table)
        block = []
    if len(found) > 1:
        return [Table(f"{t.name}, table {k}".strip(", "), t.head, t.rows) for k, t in enumerate(found, 1)]
    return found


def _table(name: str, block: list[list[str]]) -> Table | None:
    wide = [r for r in block if sum(bool(c) for c in r) >= 2]
    if len(wide) < 2:
        return None
    width = max(len(r) for r in wide)
    start = block.index(wide[0])
    head, body = _padded(block[start], width), block[start + 1 :]
    if body and not _has_figures(body[0]) and len(body) > 1 and _has_figures(body[1]):
        second = _padded(body[0], width)  # a head of two lines: Water / nitrate
        last = ""
        joined = []
        for above, below in zip(head, second, strict=True):
            last = above or last
            joined.append(f"{last} {below}".strip() if below else above)
        head, body = joined, body[1:]
    kept = tuple(tuple(_padded(r, width)) for r in body if any(r))
    return Table(name, tuple(h or f"column {k}" for k, h in enumerate(head, 1)), kept) if kept else None


def _padded(row: list[str], width: int) -> list[str]:
    return [*row, *[""] * (width - len(row))][:width]


def _has_figures(row: Sequence[str]) -> bool:
    return any(any(c.isdigit() for c in cell) for cell in row)
