"""What a line of the log reads in another water: kept in words, and in that water's record as long as it stands."""

from dataclasses import replace
from datetime import timedelta

from jarbloom.core.journal.line.elsewhere import figures_elsewhere
from jarbloom.core.model.tank import Source, Water
from jarbloom.core.setup.source import source_apart
from jarbloom.deeds import keep_house, keep_tank, log, log_book, look
from jarbloom.deeds.log_lines import log_lines
from jarbloom.deeds.water_record import bag_lately, record_of
from jarbloom.store import house
from tests.make import NOW, WithDesk, tank

SLUG = "sunroom-112"


class TheRecord(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, replace(tank(), started=NOW.date() - timedelta(days=60)))

    def waters(self) -> dict[str, tuple[float, float, float]]:
        return {
            w.name: (w.source.ph, w.source.kh_dkh, round(w.source.ammonia_mg_n_l, 3))
            for w in house.waters(self.desk.conn)
        }

    def keep(self, name: str, kind: str, **read: float) -> None:
        keep_house.keep_water(self.desk, Water(name, kind, Source(name=name, **read)))

    def test_a_line_makes_the_record_and_undoing_it_takes_it_back(self) -> None:
        saved = log.log_line(self.desk, SLUG, "tap ph 8.2 kh 6.5 am 0.25")
        self.assertEqual(self.waters(), {"Tap": (8.2, 6.5, 0.25)})
        again = log.undo(self.desk, SLUG, saved.act_id)
        self.assertEqual(self.waters(), {})
        log.undo(self.desk, SLUG, again.act_id)
        self.assertEqual(self.waters(), {"Tap": (8.2, 6.5, 0.25)})

    def test_only_what_was_read_changes_and_voiding_goes_back_one_reading(self) -> None:
        self.keep("Kitchen", "tap", ph=7.4, kh_dkh=3.0)
        log.log_line(self.desk, SLUG, "yesterday tap kh 9")
        last = log.log_line(self.desk, SLUG, "the tap is ph 7.9")
        self.assertEqual(self.waters(), {"Kitchen": (7.9, 9.0, 0.0)})
        log.void_entry(self.desk, SLUG, last.entry_ids[0])
        self.assertEqual(self.waters(), {"Kitchen": (7.4, 9.0, 0.0)})

    def test_an_older_reading_overwrites_no_newer_one(self) -> None:
        log.log_line(self.desk, SLUG, "tap ph 8.2")
        log.log_line(self.desk, SLUG, "3 days ago tap ph 6")
        self.assertEqual(self.waters()["Tap"][0], 8.2)

    def test_a_correction_and_a_shift_carry_it_on(self) -> None:
        first = log.log_line(self.desk, SLUG, "tap ph 8.2")
        filled = log.FilledForm("note", NOW, {"text": "tap ph 7.2"})
        new = log.correct_entry(self.desk, SLUG, first.entry_ids[0], filled)
        self.assertEqual(self.waters()["Tap"][0], 7.2)
        log_book.shift_several(self.desk, SLUG, new.entry_ids, timedelta(days=-2))
        self.assertEqual(self.waters()["Tap"][0], 7.2)
        (water,) = house.waters(self.desk.conn)
        self.assertEqual(water.measured_on, NOW.date() - timedelta(days=2))

    def test_of_two_taps_the_one_that_this_tank_is_filled_from_or_none(self) -> None:
        self.keep("Kitchen", "tap")
        self.keep("Cellar", "tap")
        log.log_line(self.desk, SLUG, "tap ph 8.2")
        self.assertEqual({v[0] for v in self.waters().values()}, {7.6})
        keep_house.use_for(self.desk, SLUG, Source(name="Cellar"))
        log.log_line(self.desk, SLUG, "tap ph 8.3")
        self.assertEqual({k: v[0] for k, v in self.waters().items()}, {"Kitchen": 7.6, "Cellar": 8.3})

    def test_pasted_lines_too_and_other_waters_by_kind(self) -> None:
        log_lines(self.desk, SLUG, "am 0 ni 0\nro tds 10, ph 6.8\nrain barrel ph 6, kh 0")
        self.assertEqual({k: v[:2] for k, v in self.waters().items()}, {"Osmosis": (6.8, 0.0), "Rain": (6.0, 0.0)})

    def test_what_reads_no_water_of_the_house_makes_no_record(self) -> None:
        for line in ("note all well", "bag ph 6.5", "wc 20%", "note tap ph 8?", "quarantine ammonia 1"):
            log.log_line(self.desk, SLUG, line)
        self.assertEqual(self.waters(), {})

    def test_the_tank_asks_to_reckon_with_it_until_it_does(self) -> None:
        def titles() -> list[str]:
            return [j.kind for j in look.see(self.desk, SLUG).jobs if j.kind == "source_water"]

        self.assertEqual(titles(), [])
        log.log_line(self.desk, SLUG, "tap am 0.5")
        self.assertEqual(titles(), ["source_water"])
        upset = log.log_line(self.desk, SLUG, "in 6 guppy am 8 ni 5 ph 8", reason="a gift")
        self.assertTrue(look.see(self.desk, SLUG).situation.acting)
        self.assertEqual(titles(), ["source_water"])  # the changes of an upset go by the settings, too
        log.undo(self.desk, SLUG, upset.act_id)
        record = record_of(self.desk, self.tank)
        self.assertEqual(source_apart(self.tank, record), ("ammonia 0.5\u00a0mg/L as N (0 here)",))
        self.assertEqual(source_apart(self.tank, replace(record, by_log=False)), ())  # the keeper's own figures
        keep_house.use_for(self.desk, SLUG, record.source)
        self.assertEqual(titles(), [])

    def test_what_was_read_in_the_bag_waits_for_the_arrival(self) -> None:
        setting = log.setting_of(self.desk, self.tank)
        for line in ("bag t 21, tank t 25", "bag ammonia 4 ph 6.4", "bag ph 6.6"):
            log.log_line(self.desk, SLUG, line)
        found = bag_lately(self.desk, setting, self.desk.log(self.tank.id))
        self.assertEqual(found, {"temp": 21.0, "ammonia": 4.0, "ph": 6.6})
        later = replace(self.desk, now=NOW + timedelta(days=1))
        self.assertEqual(bag_lately(later, setting, self.desk.log(self.tank.id)), {})

    def test_in_whose_words_ever(self) -> None:
        setting = log.setting_of(self.desk, self.tank)
        for text, told in (
            ("tap: ph 8.2, kh 6", {"tap": {"ph": 8.2, "kh": 6}}),
            ("the tap has kh 4 and gh 8", {"tap": {"kh": 4, "gh": 8}}),
            ("ph of the tap is 8", {"tap": {"ph": 8}}),
            ("ph 7.8 in the tap, 7.2 in the tank", {"tap": {"ph": 7.8}}),
            ("bag temp 22 sal 35", {"bag": {"temp": 22, "salinity": 35}}),
            ("changed 20 l tap water", {}),
            ("tap ph 8.2, tank ph 7", {"tap": {"ph": 8.2}}),
            ("tap ph 42", {}),
        ):
            with self.subTest(text=text):
                self.assertEqual(figures_elsewhere(text, NOW, setting), told)
