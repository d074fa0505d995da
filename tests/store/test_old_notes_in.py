"""A spreadsheet into the log: files of any kind, what is new, one act, one undo, and what cannot be read."""

import io
import unittest
import zipfile
from dataclasses import replace
from datetime import date, datetime, timedelta
from unittest import mock

from openpyxl import Workbook

from jarbloom.deeds import keep_tank, log, old_notes
from jarbloom.errors import Refused
from jarbloom.formats.tables import MOST_ROWS, tables
from jarbloom.store import journal
from tests.make import NOW, WithDesk, tank

CSV = "Datum;Nitrat;pH;Notiz\n03/04/2026;20;7,2;alles gut\n10/04/2026;40;7,1;\n17/04/2026;;7,0;Schnecken\n"


def workbook(*sheets: list[list[object]]) -> bytes:
    book = Workbook()
    book.remove(book.active)
    for k, rows in enumerate(sheets):
        sheet = book.create_sheet(f"Sheet{k + 1}")
        for row in rows:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


class Files(unittest.TestCase):
    def test_any_delimiter_and_encoding(self) -> None:
        plain = tables(CSV.encode())[0]
        self.assertEqual(plain.head, ("Datum", "Nitrat", "pH", "Notiz"))
        for told in (CSV.encode("utf-8-sig"), CSV.encode("utf-16"), CSV.replace(";", "\t").encode(),
                     CSV.encode("cp1252"),
                     CSV.replace("\n", "\r\n").encode()):  # fmt: skip
            self.assertEqual(tables(told)[0].rows, plain.rows)
        commas = 'date,note\n2026-04-03,"one, two"\n2026-04-04,three\n'
        self.assertEqual(tables(commas.encode())[0].rows[0], ("2026-04-03", "one, two"))
        self.assertEqual(tables("Größe;a\n1;ü\n".encode("cp1252"))[0].rows, (("1", "ü"),))

    def test_workbooks_with_titles_merged_heads_two_tables_and_real_dates(self) -> None:
        first = [["My tank"], [], ["Date", "Water", None, "Done"], [None, "nitrate", "pH", None],
                 [date(2026, 4, 3), 20.5, 7.2, "wc 30%"], [datetime(2026, 4, 10, 18, 30), 40, 7, None]]  # fmt: skip
        second = [
            ["day", "temp"],
            ["2026-04-03", 25],
            [],
            ["food", "price"],
            ["flakes", 3],
            ["pellets", 5],
            ["algae", 9],
        ]
        found = tables(workbook(first, second))
        self.assertEqual([t.name for t in found], ["Sheet2, table 2", "Sheet1", "Sheet2, table 1"])
        self.assertEqual(found[1].head, ("Date", "Water nitrate", "Water pH", "Done"))
        self.assertEqual(found[1].rows[0], ("2026-04-03", "20.5", "7.2", "wc 30%"))
        self.assertEqual(found[1].rows[1][0], "2026-04-10 18:30")

    def test_a_formula_without_its_value_is_empty(self) -> None:
        (found,) = tables(workbook([["Date", "NO3"], ["2026-04-03", "=1+1"], ["2026-04-04", 5]]))
        self.assertEqual([r[1] for r in found.rows], ["", "5"])

    def test_what_is_no_table_is_said(self) -> None:
        lying = io.BytesIO()
        with zipfile.ZipFile(lying, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("xl/workbook.xml", b"0" * 3_000_000)
        for content, words in (
            (b"", "empty"), (b"just words", "No table"), (b"\x7fELF\x00\x00" + bytes(range(40)) * 40, "no table"),
            (b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"x" * 100, "old format"), (b"PK\x03\x04 broken", "cannot be read"),
            (lying.getvalue(), "too large"), (b"a;b\n" + b"1;2\n" * (MOST_ROWS + 5), "more than"),
            (("x;" * 70 + "\n" + "1;" * 70).encode(), "columns"),
        ):  # fmt: skip
            less = mock.patch("jarbloom.formats.tables.MOST_UNPACKED", 2_000_000)
            with self.subTest(words=words), less, self.assertRaisesRegex(Refused, words):
                tables(content)


class TakenIn(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, replace(tank(), started=date(2026, 1, 1)))
        self.slug = self.tank.slug

    def entries(self):
        return journal.entries(self.conn, self.tank.id)

    def plan(self, content: str):
        (table, *_) = tables(content.encode())
        plan, orders = old_notes.suggested(self.desk, self.slug, table)
        return table, plan, orders

    def test_in_one_act_once_and_out_in_one(self) -> None:
        table, plan, orders = self.plan(CSV)
        self.assertEqual((plan.columns, orders), (("day", "nitrate:NO3", "ph", "note"), ("dmy",)))
        seen = old_notes.preview(self.desk, self.slug, table, plan)
        self.assertEqual(self.entries(), [])  # looking writes nothing
        saved, bad = old_notes.take(self.desk, self.slug, table, plan)
        self.assertEqual((len(saved.entry_ids), bad, len(seen.new)), (5, 0, 5))
        self.assertEqual([f"{e.at:%d %b}" for e in self.entries() if e.kind == "note"], ["03 Apr", "17 Apr"])
        with self.assertRaisesRegex(Refused, "3 rows"):  # the same file again adds nothing
            old_notes.take(self.desk, self.slug, table, plan)
        longer, plan, _ = self.plan(CSV + "24/04/2026;10;7,2;\n")
        again, _ = old_notes.take(self.desk, self.slug, longer, plan)
        self.assertEqual(len(again.entry_ids), 1)
        log.undo(self.desk, self.slug, again.act_id)
        log.undo(self.desk, self.slug, saved.act_id)
        self.assertEqual(self.entries(), [])
        with self.assertRaises(Refused):  # what was struck does not come back by itself
            old_notes.take(self.desk, self.slug, table, plan)

    def test_bad_rows_stay_out_with_their_reason(self) -> None:
        table, plan, _ = self.plan(CSV + "soon;20;7;\n01/12/2026;20;7;\n24/04/2026;20 drops;7;\n01/12/2025;20;7;\n")
        seen = old_notes.preview(self.desk, self.slug, table, plan)
        told = {r.number: (r.column, r.problem) for r in seen.bad}
        self.assertEqual(sorted(told), [5, 6, 7, 8])
        self.assertEqual([told[n][0] for n in (5, 7)], [0, 1])
        self.assertIn("no day", told[5][1])
        self.assertIn("unit", told[7][1])
        self.assertIn("no water", told[8][1])
        _, bad = old_notes.take(self.desk, self.slug, table, plan)
        self.assertEqual(bad, 4)

    def test_headings_and_words_are_remembered(self) -> None:
        told = "Tag;Wert;Was\n03/04/2026;20;Grosse Reinigung\n"
        table, plan, _ = self.plan(told)
        self.assertEqual(plan.columns[1], "skip")
        mine = replace(plan, columns=("day", "nitrate:NO3", "words"), words={"grosse reinigung": "wc 50%"})
        old_notes.take(self.desk, self.slug, table, mine)
        self.assertEqual([e.kind for e in self.entries()], ["test", "change"])
        _, next_time, _ = self.plan(told.replace("03/04", "10/04"))
        self.assertEqual(next_time.columns, ("day", "nitrate:NO3", "words"))
        self.assertEqual(next_time.words, {"grosse reinigung": "wc 50%"})

    def test_without_a_day_nothing_can_be_placed(self) -> None:
        table, plan, _ = self.plan("NO3;pH\n20;7\n10;7\n")
        with self.assertRaisesRegex(Refused, "day"):
            old_notes.preview(self.desk, self.slug, table, plan)

    def test_five_thousand_entries(self) -> None:
        self.tank = keep_tank.set_up(self.desk, replace(tank(), name="Old", started=date(2012, 1, 1)))
        self.slug = self.tank.slug
        first = date(2012, 2, 1)
        rows = "".join(f"{first + timedelta(days=k)};{5 * (k % 9)};7.{k % 5};fed 0.3 g\n" for k in range(2500))
        table, plan, _ = self.plan("date;nitrate;pH;what\n" + rows)
        saved, bad = old_notes.take(self.desk, self.slug, table, plan)
        self.assertEqual((len(saved.entry_ids), bad), (5_000, 0))
        self.assertEqual(len(self.desk.log(self.tank.id)), 5_000)
        self.assertLess(self.desk.log(self.tank.id)[-1].at, NOW)
