"""The stock book: groups, who left, losses, missing heads, deaths with circumstances."""

import unittest
from datetime import date, timedelta

from jarbloom.core.advice.animal_jobs import count_jobs, keeping_jobs, plan_jobs, quarantine_jobs
from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import situation
from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.journal.book import deaths, groups, kept_for_now, losses_by, missing, spent, stock, stocks
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.dates import BatchDay
from jarbloom.core.stocking.gate import of_the_tank
from jarbloom.units import Units
from tests.make import NOW, REFERENCE, entry, numbered, tank, test_entry

TODAY = NOW.date()


def log(*more):
    return numbered(
        entry("arrival", 60, species="guppy", count=4, seller="a shop", price=12.0, tank_bred="yes"),
        entry("arrival", 20, species="guppy", count=6, seller="a keeper"),
        entry("birth", 10, species="guppy", count=15, length_cm=0.8),
        entry("arrival", 20, species="kuhli_loach", count=6, seller="a shop", until="2026-12-24"),
        *more,
    )


class Groups(unittest.TestCase):
    def test_who_came_less_who_left_is_who_lives_here(self) -> None:
        found = log(
            entry("death", 5, species="guppy", count=5, cause="old"), entry("given", 3, species="guppy", count=10),
            entry("moved", 2, species="kuhli_loach", count=2, to="Hall 96"),
        )  # fmt: skip
        self.assertEqual(sum(g.now for g in groups(found)), 31 - 17)
        self.assertEqual(sum(a.count for a in stock(found, TODAY)), 31 - 17)
        for g in groups(found):
            self.assertEqual(g.came, g.now + g.dead + g.given + g.moved)

    def test_the_oldest_go_first_unless_the_group_is_named(self) -> None:
        first = groups(log(entry("death", 5, species="guppy", count=1)))
        self.assertEqual([g.dead for g in first], [1, 0, 0, 0])
        born = next(g.id for g in groups(log()) if g.born)
        named = groups(log(entry("death", 5, species="guppy", count=1, group=born)))
        self.assertEqual([g.dead for g in named if g.born], [1])
        self.assertEqual(sum(g.dead for g in named), 1)

    def test_a_corrected_arrival_keeps_its_name(self) -> None:
        found = numbered(
            entry("arrival", 20, species="guppy", count=6, first=77), entry("arrival", 30, species="guppy", count=4),
            entry("death", 5, species="guppy", count=1, group=77),
        )  # fmt: skip
        self.assertEqual({g.id: g.dead for g in groups(found)}[77], 1)

    def test_of_many_days_at_once_it_is_what_each_of_them_says(self) -> None:
        found = log(
            entry("death", 15, species="guppy", count=5), entry("given", 3, species="guppy", count=10),
            entry("length", 4, species="kuhli_loach", count=1, length_cm=8.0),
        )  # fmt: skip
        days = [TODAY - timedelta(days=k) for k in (70, 60, 59, 20, 15, 15, 10, 4, 3, 0)]
        self.assertEqual(list(stocks(found, days)), [stock(found, day) for day in days])
        self.assertEqual(list(stocks((), days)), [()] * len(days))

    def test_only_what_had_happened_by_the_date(self) -> None:
        self.assertEqual(sum(g.came for g in groups(log(), date(2026, 10, 30))), 4)

    def test_losses_by_seller_count_early_deaths_and_say_how_unsure_they_are(self) -> None:
        found = groups(
            log(entry("death", 15, species="kuhli_loach", count=2), entry("death", 1, species="guppy", count=1))
        )
        by = {x.name: x for x in losses_by(found, "seller")}
        self.assertEqual((by["a shop"].came, by["a shop"].dead, by["a shop"].early), (10, 3, 2))
        low, high = by["a shop"].early_range
        self.assertTrue(0 < low < 0.2 < high < 1)
        self.assertNotIn("", by)
        self.assertEqual(losses_by(found, "species")[0].name, "kuhli_loach")
        self.assertEqual(spent(found), 12.0)


class Heads(unittest.TestCase):
    def test_missing_until_seen_or_found(self) -> None:
        short = log(
            entry("count", 8, species="kuhli_loach", count=6), entry("count", 4, species="kuhli_loach", count=4)
        )
        (m,) = missing(short, TODAY)
        self.assertEqual((m.species, m.count), ("kuhli_loach", 2))
        self.assertEqual(m.since.day, 16)
        found = [*short, entry("death", 2, species="kuhli_loach", count=1)]
        self.assertEqual(missing(numbered(*found), TODAY)[0].count, 1)
        seen = [*short, entry("count", 1, species="kuhli_loach", count=6)]
        self.assertEqual(missing(numbered(*seen), TODAY), ())

    def test_nobody_is_missing_who_was_never_counted(self) -> None:
        self.assertEqual(missing(log(), TODAY), ())

    def test_deaths_come_with_what_was_known_before(self) -> None:
        found = log(
            test_entry(6, ammonia="0.5", nitrite="0"), entry("media", 5, how="tap"),
            entry("death", 4, species="kuhli_loach", count=1), test_entry(3, ammonia="0"),
        )  # fmt: skip
        (death,) = deaths(found)
        self.assertEqual(death.days_here, 16)
        self.assertIn("ammonia 0.5", death.readings[0])
        self.assertEqual([e.kind for e in death.before], ["media"])


class Jobs(unittest.TestCase):
    def situation(self, *more):
        entries = log(*more)
        made = forecast(tank(), entries, NOW, REFERENCE, (), Forecasting(members=40))
        return situation(tank(), entries, (), made, REFERENCE, Units(), NOW)

    def test_one_kept_for_now_has_its_day_on_the_list(self) -> None:
        self.assertEqual([g.species for g in kept_for_now(groups(log()))], ["kuhli_loach"])
        (job,) = keeping_jobs(self.situation())
        self.assertEqual((job.kind, job.due.date(), job.urgent), ("move", date(2026, 12, 24), False))
        self.assertEqual(keeping_jobs(self.situation(entry("moved", 1, species="kuhli_loach", count=6, to="x"))), [])

    def test_those_not_seen_are_looked_for(self) -> None:
        s = self.situation(entry("count", 0.1, species="guppy", count=20))
        found = s.findings.get("missing")  # the same day, not after two
        assert found is not None
        self.assertIn("5 guppies fewer than the book has", found.sentence)
        self.assertIn("find_body", [j.kind for j in jobs(s)])

    def test_heads_are_counted_next_morning_and_after_a_week(self) -> None:
        fresh = entry("arrival", 0.4, species="ember_tetra", count=10)
        self.assertEqual([j.subject for j in count_jobs(self.situation(fresh))], [""])
        week = entry("arrival", 8, species="ember_tetra", count=10)
        early = entry("count", 7.2, species="ember_tetra", count=10)
        self.assertEqual([j.subject for j in count_jobs(self.situation(week, early))], ["week"])
        done = entry("count", 1, species="ember_tetra", count=10)
        self.assertEqual(count_jobs(self.situation(week, done)), [])

    def test_a_quarantine_stands_until_they_are_in(self) -> None:
        stay = entry("quarantine", 22, species="ember_tetra", count=10, until="2026-11-23", batch=5)
        (job,) = quarantine_jobs(self.situation(stay))
        self.assertIn("End the quarantine: 10 ember tetras", job.title)
        came = entry("arrival", 1, species="ember_tetra", count=10, batch=5)
        self.assertEqual(quarantine_jobs(self.situation(stay, came)), [])

    def test_a_planned_day_before_the_one_date_is_offered_that_date(self) -> None:
        few, day = (Animals("ember_tetra", 8),), TODAY + timedelta(days=9)
        for planned, first, said in (
            (3, day, f"Move batch one to {day:%a %-d %b}"), (12, day, ""), (3, None, "Look at the plan of batch one"),
            (40, TODAY + timedelta(days=60), ""),
        ):  # fmt: skip
            batch = Batch(1, "Batch one", TODAY + timedelta(days=planned), few)
            made = forecast(tank(), log(), NOW, REFERENCE, [batch], Forecasting(members=40))
            days = [BatchDay(1, first, first, "pace")]
            s = situation(tank(), log(), [batch], made, REFERENCE, Units(), NOW, days)
            with self.subTest(planned=planned, first=first):
                self.assertEqual([j.title for j in plan_jobs(s)], [said] if said else [])

    def test_the_dead_given_and_moved_are_no_arrivals_to_the_gate(self) -> None:
        s = self.situation(entry("given", 1, species="guppy", count=1))
        keys = [c.key for c in of_the_tank(s.tank, s.entries, s.living, REFERENCE, NOW)]
        self.assertNotIn("losses", keys)


if __name__ == "__main__":
    unittest.main()
