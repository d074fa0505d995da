"""Clock, order of dates and decimals on pages: as chosen, else as the device's language has them."""

import unittest

from jarbloom.manner import PLAIN, Manner, manner_of, text_in, usual_units
from jarbloom.web.written import written

ALL = Manner(twelve_hours=True, month_first=True, comma=True)


class Written(unittest.TestCase):
    def test_text(self) -> None:
        for text, wanted in (
            ("0.25 to 1,280.5 "
             "L", "0,25 to 1.280,5 L"), ("pH 7.6, 20:15 on 28\u00a0Nov", "pH 7,6, 8:15 pm on Nov\u00a028"),
            ("00:05 and 12:00", "12:05 am and 12:00 pm"), ("5 May 2026", "May 5, 2026"), ("dilute 1:10", "dilute 1:10"),
            ("version 1.2.3", "version 1.2.3"), ("3, 4 and 5", "3, 4 and 5"), ("25:00, 12:75", "25:00, 12:75"),
            ("in May 8 came", "in May 8 came"), ("127.0.0.1:8300", "127.0.0.1:8300"),
        ):  # fmt: skip
            with self.subTest(text=text):
                self.assertEqual(text_in(text, ALL), wanted)

    def test_only_what_is_read(self) -> None:
        html = (
            '<input value="0.25 20:15"><p title="at 20:15" data-at="20:15">0.5<kbd>am .25 '
            "0.5</kbd></p><textarea>0.5</textarea>"
            '<script>x = 0.5</script><path d="M0.5 1.5"/><svg aria-label="0.5 mg/L"><text x="0.5">0.5</text></svg>'
        )
        wanted = (
            '<input value="0.25 20:15"><p title="at 8:15 pm" data-at="20:15">0,5<kbd>am .25 '
            "0.5</kbd></p><textarea>0.5</textarea>"
            '<script>x = 0.5</script><path d="M0.5 1.5"/><svg aria-label="0,5 mg/L"><text x="0.5">0,5</text></svg>'
        )
        self.assertEqual(written(html, ALL), wanted)
        self.assertEqual(written(html, PLAIN), html)

    def test_what_a_language_usually_has(self) -> None:
        for language, wanted in (
            ("en-GB,en;q=0.9", PLAIN), ("", PLAIN), ("*", PLAIN), ("en-US", Manner(twelve_hours=True)),
            ("de-DE,de", Manner(comma=True)), ("de-CH", PLAIN), ("fr", Manner(comma=True)), ("zh-Hant-TW", PLAIN),
        ):  # fmt: skip
            with self.subTest(language=language):
                self.assertEqual(manner_of("", "", "", False, language), wanted)
        self.assertEqual((usual_units("en-US"), usual_units("en-GB"), usual_units("")), ("us", "metric", "metric"))

    def test_a_choice_goes_before_the_language(self) -> None:
        self.assertEqual(manner_of("24", "day", "comma", True, "en-US"), Manner(comma=True))
        self.assertEqual(manner_of("", "", "", True, ""), Manner(twelve_hours=True, month_first=True))  # no device asks


if __name__ == "__main__":
    unittest.main()
