"""The log as a spreadsheet: read back as it was, and never a formula."""

import csv
import io
import unittest

from openpyxl import load_workbook

from jarbloom.formats.log_table import plain, table_csv, table_xlsx
from tests.make import entry, numbered, test_entry


class Tables(unittest.TestCase):
    log = numbered(
        test_entry(9, ammonia="0.25", nitrate="20"), entry("note", 8, text="=cmd|' /C calc'!A0"),
        entry("note", 7, text="-5 degrees outside"), entry("change", 6, litres=25.0),
        entry("note", 5, text="bell \x07 rings"),
    )  # fmt: skip

    def test_a_formula_is_a_text(self) -> None:
        told = list(csv.DictReader(io.StringIO(table_csv(self.log))))
        self.assertEqual(
            [row["text"] for row in told], ["", "'=cmd|' /C calc'!A0", "'-5 degrees outside", "", "bell \x07 rings"]
        )
        for text, safe in (("-2.5", "-2.5"), ("+7", "+7"), ("@a", "'@a"), ("\tx", "'\tx"), ("a=b", "a=b"), ("", "")):
            self.assertEqual(plain(text), safe)

    def test_numbers_are_numbers_in_a_workbook(self) -> None:
        sheet = load_workbook(io.BytesIO(table_xlsx(self.log))).active
        heads = [c.value for c in sheet[1]]
        self.assertNotIn("detail", heads)
        column = {h: [sheet.cell(r, k + 1) for r in range(2, 7)] for k, h in enumerate(heads)}
        self.assertEqual([c.value for c in column["nitrate"]], [20, None, None, None, None])
        self.assertEqual((column["text"][1].value, column["text"][1].data_type), ("=cmd|' /C calc'!A0", "s"))
        self.assertEqual(column["amount"][3].value, 25)
        self.assertEqual(column["text"][4].value, "bell  rings")
