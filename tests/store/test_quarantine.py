"""A quarantine tank by one press: its water, its sponge, its days, and everybody home at its end."""

from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.deeds import keep_tank, log, look, quarantine, records
from jarbloom.errors import GateClosed, Refused
from tests.make import WithDesk, tank


class OfItsOwn(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.home = keep_tank.set_up(self.desk, tank(ph=6.8, temp_c=24.0, quarantine_days=28.0))

    def begin(self, sponge: bool = True):
        return quarantine.begin(self.desk, self.home.slug, sponge)

    def arrived(self, box, days_ago: float = 0) -> None:
        log.log_line(self.later(days=-days_ago), box.slug, "in 6 harlequin rasboras", reason="watched here")
        self.later(days=days_ago)

    def test_it_has_the_water_of_the_tank_and_its_sponge(self) -> None:
        box = self.begin()
        self.assertEqual((box.ph, box.temp_c, box.kit, box.quarantine_of), (6.8, 24.0, self.home.kit, self.home.slug))
        (lent,) = self.desk.log(box.id).kinds(Bacteria)
        self.assertEqual((lent.body.source, lent.body.donor), ("borrowed", "healthy"))
        self.assertEqual(look.see(self.desk, box.slug).tank.name, "Quarantine of Sunroom 112")
        self.assertEqual(quarantine.of(self.desk, self.home.slug).slug, box.slug)

    def test_a_tank_in_trouble_lends_no_media(self) -> None:
        log.log_line(self.desk, self.home.slug, "in 8 harlequin rasboras", reason="they are here")
        log.log_line(self.later(days=1), self.home.slug, "am 2 ni 1")
        with self.assertRaises(Refused) as told:
            self.begin(sponge=True)
        self.assertIn("in trouble itself", told.exception.sentence)
        self.assertEqual(self.desk.log(self.begin(sponge=False).id).kinds(Bacteria), ())

    def test_one_at_a_time_and_none_of_a_quarantine(self) -> None:
        box = self.begin(sponge=False)
        self.assertEqual(self.desk.log(box.id).kinds(Bacteria), ())
        for slug in (self.home.slug, box.slug):
            with self.subTest(slug=slug), self.assertRaises(Refused):
                quarantine.begin(self.desk, slug, True)

    def test_its_days_count_from_the_last_that_came(self) -> None:
        box = self.begin()

        def job():
            return next((j for j in look.see(self.desk, box.slug).jobs if j.kind == "quarantine"), None)

        self.assertIsNone(job())
        self.arrived(box)
        self.later(days=20)
        self.assertIn("Watch", job().title)
        self.arrived(box)
        self.later(days=27)
        self.assertIn("Watch", job().title)
        self.later(days=1)
        self.assertEqual(job().due_text, "until all are well")  # nobody has tested the water for weeks
        for _ in range(2):
            log.log_line(self.desk, box.slug, "am 0 ni 0 ph 6.8")
            self.later(days=1)
        self.assertIn("Move them home", job().title)
        log.log_line(self.desk, box.slug, "saw all gasping")
        self.assertEqual((job().title, job().due_text), ("Watch those in quarantine", "until all are well"))

    def test_all_go_home_or_nobody_and_it_is_shelved(self) -> None:
        box = self.begin()
        self.arrived(box)
        with self.assertRaises(GateClosed) as told:  # a tank without a proof is no home yet
            quarantine.end(self.desk, box.slug)
        self.assertIn("Sunroom 112", told.exception.sentence)
        self.assertEqual(self.desk.log(self.home.id).kinds(Arrival), ())
        self.assertIn(box.slug, dict(records.tank_names(self.desk)))
        quarantine.end(self.desk, box.slug, "they are well, and the box leaks")
        (came,) = self.desk.log(self.home.id).kinds(Arrival)
        self.assertEqual((came.body.count, came.body.seller), (6, "Quarantine of Sunroom 112"))
        self.assertNotIn(box.slug, dict(records.tank_names(self.desk)))
        self.assertIsNone(quarantine.of(self.desk, self.home.slug))
        with self.assertRaises(Refused):
            quarantine.end(self.desk, self.home.slug, "it is no quarantine at all")
