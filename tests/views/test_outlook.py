"""The outlook as geometry and words: ranges nest, names do not stand on one another, words fit the tank."""

import re
import unittest
from dataclasses import replace

from jarbloom.core.advice.outlook import Outlook
from jarbloom.core.bloom.forecast import Surprise
from jarbloom.core.bloom.track import Met, Said, Track
from jarbloom.views.drawn.fan import BY_KEY, QUANTITIES, SMALL, fan, seen_words
from jarbloom.views.drawn.record import ladder, record_words
from jarbloom.views.tank.outlook import outlook_page, presets
from tests.core.test_bloom import a_cycle
from tests.make import NOW, at, entry, tank
from tests.views.test_charts import look, rasboras
from tests.views.test_page_data import FISH, seen

NOTHING = Track((), ())


def ys(path: str) -> list[float]:
    return [float(y) for _, y in re.findall(r"(-?[\d.]+) (-?[\d.]+)", path)]


class Fans(unittest.TestCase):
    def test_every_quantity_is_drawn_inside_its_box_with_nested_ranges(self) -> None:
        s = look([rasboras(8)])
        for q in QUANTITIES:
            for width, height in ((1200.0, 380.0), (SMALL, 230.0)):
                with self.subTest(q.key, width=width):
                    c = fan(s, q, width, height)
                    self.assertEqual(len(c.ranges), 3)
                    outer, inner = (max(ys(r)) - min(ys(r)) for r in (c.ranges[0], c.ranges[2]))
                    self.assertGreaterEqual(outer, inner)
                    self.assertLessEqual(max(ys(c.past + c.future)), c.base + 0.1)
                    self.assertTrue(c.left <= c.today_x <= c.right)
                    self.assertTrue(c.description)

    def test_one_row_a_day_and_the_phone_knows_its_own(self) -> None:
        c = fan(look(), BY_KEY["no2"], 1200, 380, table=True)
        self.assertEqual(sum(r.today for r in c.rows), 1)
        phone = [r for r in c.rows if r.small_x is not None]
        self.assertLess(len(phone), len(c.rows))
        self.assertTrue(all(0 < r.small_x <= SMALL for r in phone))
        self.assertTrue(all(len(r.values) == 7 for r in c.rows))

    def test_load_lines_keep_apart_and_limits_need_animals(self) -> None:
        s = look([rasboras(8, 5), rasboras(1, 6, id=2)])
        labels = [x.label for x in fan(s, BY_KEY["capacity"], SMALL, 230).lines]
        self.assertEqual((len(labels), labels[0]), (2, ""))
        self.assertEqual(fan(look(), BY_KEY["no2"], 1200, 380).lines, ())
        self.assertEqual([x.kind for x in fan(s, BY_KEY["nh3"], 1200, 380).lines], ["limit"])

    def test_what_no_kit_can_tell_is_nothing(self) -> None:
        self.assertEqual([seen_words(v) for v in (0.000053, 0.0099, 0.056, 1.234)], ["0", "0", "0.056", "1.2"])


class Words(unittest.TestCase):
    def page(self, *entries, on=None, batches=(), track=NOTHING):
        return outlook_page(Outlook(seen(*entries, on=on, batches=batches), (), (), track), "no2")

    def test_a_dry_a_cycling_and_a_stocked_tank(self) -> None:
        dry = self.page(on=tank(filled=False, started=NOW.date()))
        self.assertEqual(dry.call, "Still dry.")
        cycling = self.page(*a_cycle())
        self.assertRegex(cycling.call + cycling.because, "dose")
        stocked = self.page(FISH, *a_cycle())
        self.assertRegex(stocked.call, r"Carried today with .*% probability")
        for p in (dry, cycling, stocked):
            self.assertGreaterEqual(len(p.why), 3)
            self.assertNotIn("after", p.because)

    def test_only_the_last_reading_of_a_quantity_is_to_be_repeated(self) -> None:
        x = seen(*a_cycle())
        read = [e for e in x.situation.entries if any(r.quantity == "nitrite" for r in e.readings)]
        told = {}
        for name, e in (("old", read[0]), ("last", read[-1])):
            odd = Surprise(e.id, e.at, "nitrite", "5", 0.03)
            s = replace(x.situation, forecast=replace(x.situation.forecast, surprises=(odd,)))
            why = outlook_page(Outlook(replace(x, situation=s), (), (), NOTHING), "no2").why
            told[name] = next(w for w in why if "does not fit the others" in w)
        self.assertIn("Repeat it", told["last"])
        self.assertNotIn("Repeat it", told["old"])

    def test_presets_suit_the_tank(self) -> None:
        cycling, stocked = (seen(*e).situation for e in (a_cycle(), (FISH,)))
        self.assertIn("dose half", [x.name for x in presets(cycling)])
        self.assertNotIn("dose half", [x.name for x in presets(stocked)])
        planned = presets(look([rasboras(8)]))
        self.assertEqual(planned[-1].line, "in 8 harlequin rasboras")

    def test_the_record(self) -> None:
        low = Met(at(1), "nitrite", "1", 0.7, 1.5, 0.0, 0.2, 0.5, at(4).date())
        track = Track((low, replace(low, said_high=0.9)), (Said(at(4).date(), NOW.date(), None, None),))
        self.assertEqual(track.inside, 1)
        self.assertIn("Of 2 readings", record_words(track))
        self.assertIn("No earlier forecast", record_words(NOTHING))
        drawn = ladder(seen(*a_cycle()).situation, track)
        assert drawn is not None
        self.assertEqual(len(drawn.rungs), 2)
        self.assertTrue(drawn.rungs[0].open)
        self.assertIsNone(ladder(seen(FISH).situation, track))
        self.assertIsNone(ladder(seen(entry("dose", 2, mg_n=1.0)).situation, NOTHING))
