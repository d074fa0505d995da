"""What is in store: how long it lasts by the log, its dates, and the list for the shop."""

from dataclasses import replace
from datetime import timedelta

from jarbloom.core.model.supply import Supply
from jarbloom.core.water.mixing import salt_g
from jarbloom.deeds import keep_tank, log, schedule, stores
from jarbloom.errors import Refused
from jarbloom.store import batches
from jarbloom.store.db import transaction
from tests.make import NOW, WithDesk, tank

TODAY = NOW.date()


def supply(kind: str, left: float | None, unit: str, **more: object) -> Supply:
    return Supply(kind, kind, left, unit, TODAY, **more)


class Stores(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        fresh = replace(tank(), started=TODAY - timedelta(days=300), conditioner_ml_per_100l=20.0)
        self.tank = keep_tank.set_up(self.desk, fresh)

    def line(self, text: str, days: float, slug: str = "") -> None:
        log.log_line(
            replace(self.desk, now=NOW - timedelta(days=days)), slug or self.tank.slug, text, reason="an old tank"
        )

    def one(self, s: Supply):
        stores.keep(self.desk, s)
        return stores.see(self.desk).lasts[-1]

    def test_conditioner_by_the_litres_that_are_changed(self) -> None:
        for days in range(5, 60, 10):
            self.line("wc 28 l", days)
        found = self.one(supply("conditioner", 100, "mL"))
        self.assertAlmostEqual(found.per_day, 6 * 28 / 100 * 20 / 60, 2)  # 20 mL for 100 L
        self.assertIn("water changes", found.rests_on)
        self.assertEqual(found.state, "fine")
        self.assertEqual((found.until - TODAY).days, int(100 / found.per_day))
        self.line("conditioner 12 ml", 3)
        logged = stores.see(self.desk).lasts[-1]
        self.assertAlmostEqual(logged.per_day, 12 / 60, 3)
        in_litres = self.one(
            supply(
                "conditioner",
                0.1,
                "L",
            )
        )
        self.assertEqual(in_litres.until, logged.until)

    def test_salt_for_the_sea_alone(self) -> None:
        self.line("wc 28 l", 5)
        self.assertIsNone(self.one(supply("salt", 5, "kg")).until)
        sea = replace(tank(), name="Sea", started=TODAY - timedelta(days=300), salinity_g_kg=35.0, ph=8.1)
        kept = keep_tank.set_up(self.desk, sea)
        for days in range(5, 60, 10):
            self.line("wc 10 l", days, kept.slug)
        found = stores.see(self.desk).lasts[-1]
        self.assertAlmostEqual(found.per_day * 60, salt_g(60, 35.0) / 1000, 2)

    def test_food_by_the_ration_until_it_is_logged(self) -> None:
        self.line("in 10 harlequin rasboras", 200)
        by_ration = self.one(supply("food", 50, "g"))
        self.assertIn("ration", by_ration.rests_on)
        for days in range(1, 41):
            self.line("fed 0.5 g", days)
        found = stores.see(self.desk).lasts[-1]
        self.assertAlmostEqual(found.per_day, 40 * 0.5 / 60, 3)
        self.assertIn("logged", found.rests_on)

    def test_a_count_grows_old(self) -> None:
        stores.keep(self.desk, supply("other", 30, "pieces", per_day=2.0))
        self.assertEqual(stores.see(self.desk).lasts[0].left, 30)
        in_ten = replace(self.desk, now=NOW + timedelta(days=10))
        self.assertEqual((stores.see(in_ten).lasts[0].left, stores.see(in_ten).lasts[0].state), (10, "low"))
        self.assertEqual(stores.see(replace(self.desk, now=NOW + timedelta(days=20))).lasts[0].state, "gone")
        again = replace(stores.see(in_ten).lasts[0].supply, counted_on=in_ten.now.date(), price=4.0)
        stores.keep(in_ten, again)  # nothing was counted anew: the day of the count stays
        self.assertEqual(stores.see(in_ten).lasts[0].left, 10)
        stores.keep(in_ten, replace(again, left=25))
        self.assertEqual(stores.see(in_ten).lasts[0].left, 25)

    def test_dates(self) -> None:
        for more, state in (
            ({"best_before": TODAY - timedelta(days=1)}, "past"), ({"best_before": TODAY + timedelta(days=20)}, "soon"),
            ({"opened_on": TODAY - timedelta(days=100), "keeps_days": 90.0}, "past"),
            ({"opened_on": TODAY - timedelta(days=10), "keeps_days": 90.0}, "unknown"), ({}, "unknown"),
        ):  # fmt: skip
            with self.subTest(**more):
                self.assertEqual(self.one(supply("bottle", None, "mL", **more)).state, state)

    def test_enough_is_said_only_where_it_is_reckoned(self) -> None:
        for more, told in (
            ({"left": None}, "count what is left"), ({"left": 4.0}, "say how much is used a day"),
            ({"left": 4.0, "best_before": TODAY + timedelta(days=200)}, "good until"),
        ):  # fmt: skip
            with self.subTest(told=told):
                found = self.one(replace(supply("bottle", 1.0, "mL"), **more))
                self.assertIn(told, stores.words(found))
                self.assertNotIn("enough", stores.words(found))
        self.assertIn("enough", stores.words(self.one(supply("bottle", 90.0, "mL", per_day=1.0))))

    def test_what_is_low_becomes_a_job_of_the_house(self) -> None:
        self.assertEqual(stores.running_out(self.desk), [])
        kept = stores.keep(self.desk, supply("kit", 0, "tests", tests="nitrate"))
        self.assertEqual(stores.running_out(self.desk), ["kit: none left."])
        self.assertIn(b"Buy what runs out", schedule.calendar_file(self.desk))
        stores.remove(self.desk, kept)
        self.assertEqual(stores.running_out(self.desk), [])
        stores.remove(self.desk, kept, back=True)
        self.assertEqual(len(stores.running_out(self.desk)), 1)

    def test_the_list_for_the_shop(self) -> None:
        with transaction(self.conn):
            near = batches.add(self.conn, self.tank.id, "Batch one", TODAY + timedelta(days=9))
            batches.set_count(self.conn, near, "harlequin_rasbora", 8)
            far = batches.add(self.conn, self.tank.id, "Later", TODAY + timedelta(days=90))
            batches.set_count(self.conn, far, "ram", 2)
        stores.keep(self.desk, supply("food", 0, "g"))
        found = stores.shopping(self.desk, stores.see(self.desk))
        self.assertEqual([g.what for g in found][:2], ["food", "8 harlequin rasboras"])
        self.assertIn("not before 3 Dec", found[1].why)
        self.assertNotIn("2 rams", [g.what for g in found])
        self.assertTrue(all(g.ask for g in found[1:2]))

    def test_money_by_month(self) -> None:
        stores.keep(self.desk, supply("food", 10, "g", price=7.5, bought_on=TODAY))
        stores.keep(self.desk, supply("kit", 10, "tests", price=12.0, bought_on=TODAY - timedelta(days=60)))
        self.assertEqual([(m.first.month, m.stores) for m in stores.see(self.desk).months], [(11, 7.5), (9, 12.0)])

    def test_what_tells_nothing_is_asked_again(self) -> None:
        for bad, field in (
            (supply("salt", 3, "L"), "unit"), (supply("food", 1, "tests"), "unit"),
            (replace(supply("other", 1, "g"), name=" "), "name"),
            (supply("other", 1, "g", opened_on=TODAY + timedelta(days=1)), "opened_on"),
        ):  # fmt: skip
            with self.subTest(field=field), self.assertRaises(Refused) as caught:
                stores.keep(self.desk, bad)
            self.assertEqual(caught.exception.field, field)
