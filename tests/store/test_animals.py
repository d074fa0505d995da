"""Deeds about animals: the plan and its undo, arrival days, the stock book's moves, a keeper's own species."""

from dataclasses import replace
from datetime import timedelta
from pathlib import Path

from jarbloom.core.animals.acclimatise import Bag
from jarbloom.core.journal.book import groups
from jarbloom.core.model.species import Animals
from jarbloom.data.species_rows import cells_of, species_from
from jarbloom.deeds import arrive, exchange, keep_tank, log, look, own_species, plan_ahead, plan_batches, stock_book
from jarbloom.deeds.desk import Desk, with_own
from jarbloom.deeds.log import FilledForm
from jarbloom.errors import BadBundle, GateClosed, NotFound, Refused
from jarbloom.store import arrival_runs, batches, journal, plan_changes, preferences, tanks
from tests.make import NOW, REFERENCE, ZONE, WithDesk, tank

TODAY = NOW.date()
REASON = "the shop closes for good"


class Planned(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, tank())
        self.slug = self.tank.slug
        self.one = plan_batches.add_batch(self.desk, self.slug, TODAY + timedelta(days=10))
        plan_batches.set_animals(self.desk, self.slug, self.one, "ember_tetra", "10")
        self.two = plan_batches.add_batch(self.desk, self.slug, TODAY + timedelta(days=30))
        plan_batches.set_animals(self.desk, self.slug, self.two, "kuhli_loach", "6")

    def plan(self):
        return batches.batches(self.conn, self.tank.id, journal.entries(self.conn, self.tank.id))

    def undo(self) -> None:
        newest = next(c for c in plan_changes.changes(self.conn, self.tank.id) if not c.undone)
        plan_batches.undo_change(self.desk, self.slug, newest.id)

    def test_every_change_can_be_undone_to_the_first(self) -> None:
        seen = [self.plan()]
        for change in (
            lambda: plan_batches.move_batch(self.desk, self.slug, self.one, TODAY + timedelta(days=12)),
            lambda: plan_batches.lock_batch(self.desk, self.slug, self.one, True),
            lambda: plan_batches.shift_animals(self.desk, self.slug, self.two, "new", "kuhli_loach", "2", TODAY),
            lambda: plan_batches.remove_batch(self.desk, self.slug, self.two),
            lambda: plan_batches.put_on_plan(self.desk, self.slug, "new", "guppy", "6", TODAY),
            lambda: plan_batches.set_animals(self.desk, self.slug, self.one, "ember_tetra", "0"),
        ):
            change()
            seen.append(self.plan())
        for before in reversed(seen[:-1]):
            self.undo()
            self.assertEqual(self.plan(), before)

    def test_undoing_leaves_alone_what_has_gone_in_since(self) -> None:
        plan_batches.move_batch(self.desk, self.slug, self.one, TODAY + timedelta(days=12))
        plan_batches.they_are_in(self.desk, self.slug, self.one, NOW, REASON)
        self.undo()
        one = next(b for b in self.plan() if b.id == self.one)
        self.assertEqual((one.arrived, one.planned), (TODAY, TODAY + timedelta(days=12)))

    def test_only_the_latest_change_is_undone_and_only_once(self) -> None:
        first = plan_changes.changes(self.conn, self.tank.id)[-1]
        with self.assertRaises(NotFound):
            plan_batches.undo_change(self.desk, self.slug, first.id)
        last = plan_changes.changes(self.conn, self.tank.id)[0]
        plan_batches.undo_change(self.desk, self.slug, last.id)
        with self.assertRaises(NotFound):
            plan_batches.undo_change(self.desk, self.slug, last.id)

    def test_animals_go_over_to_another_batch_whole_or_in_part(self) -> None:
        plan_batches.shift_animals(self.desk, self.slug, self.two, str(self.one), "kuhli_loach", "2", TODAY)
        counts = {b.id: {a.species: a.count for a in b.items} for b in self.plan()}
        self.assertEqual(counts[self.one], {"ember_tetra": 10, "kuhli_loach": 2})
        self.assertEqual(counts[self.two], {"kuhli_loach": 4})

    def test_bad_moves_are_refused_at_their_field(self) -> None:
        for species, to, count, name in (
            ("kuhli_loach", str(self.one), "7", "count"), ("kuhli_loach", str(self.one), "0", "count"),
            ("kuhli_loach", str(self.two), "1", "to"), ("kuhli_loach", "x", "1", "to"),
            ("guppy", "new", "1", "species"),
        ):  # fmt: skip
            with self.subTest(species=species, to=to, count=count), self.assertRaises(Refused) as told:
                plan_batches.shift_animals(self.desk, self.slug, self.two, to, species, count, TODAY)
            self.assertEqual(told.exception.field, name)
        self.assertEqual(len(self.plan()), 2)

    def test_a_locked_batch_stays_and_is_told_so(self) -> None:
        plan_batches.lock_batch(self.desk, self.slug, self.one, True)
        with self.assertRaises(Refused) as told:
            plan_batches.move_batch(self.desk, self.slug, self.one, TODAY + timedelta(days=11))
        self.assertIn("locked", told.exception.sentence)
        plan_batches.lock_batch(self.desk, self.slug, self.one, False)
        plan_batches.move_batch(self.desk, self.slug, self.one, TODAY + timedelta(days=11))

    def test_no_batch_before_the_tank_or_today(self) -> None:
        for day in (TODAY - timedelta(days=1), self.tank.started - timedelta(days=1)):
            with self.subTest(day=day), self.assertRaises(Refused):
                plan_batches.add_batch(self.desk, self.slug, day)

    def test_trying_a_day_keeps_nothing(self) -> None:
        before = self.plan()
        tried = plan_ahead.board(self.desk, self.slug, self.one, 10)
        days = {j.standing.batch.id: j.standing.batch.planned for j in tried.judged}
        self.assertEqual(days[self.one], TODAY + timedelta(days=20))
        self.assertEqual(tried.kept_days[self.one], TODAY + timedelta(days=10))
        self.assertEqual(self.plan(), before)
        for days in (900, float("nan")):
            with self.assertRaises(Refused):
                plan_ahead.board(self.desk, self.slug, self.one, days)

    def test_a_day_that_has_passed_moves_by_itself_with_a_word_and_an_undo(self) -> None:
        self.later(days=12)
        before = self.plan()
        moved = plan_batches.move_slipped(self.desk)
        one = next(b for b in self.plan() if b.id == self.one)
        date = look.see(self.desk, self.slug).situation.date_of(one)
        if moved:
            assert date is not None and date.day is not None
            self.assertGreater(one.planned, self.desk.now.date() - timedelta(days=1))
            newest = plan_changes.changes(self.conn, self.tank.id)[0]
            self.assertIn("Moved by itself, since its day had passed: Batch one from", newest.sentence)
            self.undo()
            self.assertEqual(self.plan(), before)
            self.assertEqual(plan_batches.move_slipped(self.desk), 0)  # put back today: left alone
        else:
            self.assertIsNone(date.day if date else None)
        self.assertEqual(next(b for b in self.plan() if b.id == self.two).planned, TODAY + timedelta(days=30))

    def test_a_locked_batch_does_not_move_by_itself(self) -> None:
        plan_batches.lock_batch(self.desk, self.slug, self.one, True)
        self.later(days=12)
        self.assertEqual(plan_batches.move_slipped(self.desk), 0)

    def test_a_proposal_that_places_nobody_changes_nothing(self) -> None:
        for species, count in (("oscar", "6"), *((a.species, "0") for b in self.plan() for a in b.items)):
            for batch in (self.one, self.two) if count == "0" else (self.two,):
                plan_batches.set_animals(self.desk, self.slug, batch, species, count)
        before = self.plan()
        with self.assertRaises(Refused):
            plan_batches.compose_anew(self.desk, self.slug)
        self.assertEqual(self.plan(), before)


class Stocked(WithDesk):
    """A tank with fish in it that has stood for months: the planner has days to give."""

    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(
            self.desk, tank(started=TODAY - timedelta(days=120), pace="test_led", acclimatising="temperature_only")
        )
        self.slug = self.tank.slug
        self.put("arrival", 100, species="harlequin_rasbora", count=12)
        for ago in (30, 15, 2):
            self.put("test", ago, ammonia="0", nitrite="0")
        self.batch = plan_batches.add_batch(self.desk, self.slug, TODAY + timedelta(days=40))
        plan_batches.set_animals(self.desk, self.slug, self.batch, "ember_tetra", "10")

    def put(self, kind: str, ago: float, on: str = "", **raw) -> None:
        readings = {k: raw.pop(k) for k in ("ammonia", "nitrite") if k in raw}
        log.log_entry(
            self.desk, on or self.slug, FilledForm(kind, NOW - timedelta(days=ago), raw, readings), anyway=True
        )

    def waiting(self):
        seen = journal.entries(self.conn, self.tank.id)
        return [b for b in batches.batches(self.conn, self.tank.id, seen) if b.arrived is None]


class Running(Stocked):
    def test_the_planners_days_are_taken_and_told(self) -> None:
        plan_batches.take_days(self.desk, self.slug)
        (only,) = self.waiting()
        self.assertLess(only.planned, TODAY + timedelta(days=40))
        self.assertIn("Batch one from", plan_changes.changes(self.conn, self.tank.id)[0].sentence)

    def test_composed_anew_the_same_animals_stand_and_locked_ones_stay(self) -> None:
        locked = plan_batches.add_batch(self.desk, self.slug, TODAY + timedelta(days=50))
        plan_batches.set_animals(self.desk, self.slug, locked, "nerite_snail", "2")
        plan_batches.lock_batch(self.desk, self.slug, locked, True)
        plan_batches.compose_anew(self.desk, self.slug)
        counted: dict[str, int] = {}
        for b in self.waiting():
            for a in b.items:
                counted[a.species] = counted.get(a.species, 0) + a.count
        self.assertEqual(counted, {"ember_tetra": 10, "nerite_snail": 2})
        self.assertIn(locked, {b.id for b in self.waiting()})

    def test_who_finds_no_day_waits_behind_the_others_in_a_last_batch(self) -> None:
        plan_batches.set_animals(self.desk, self.slug, self.batch, "oscar", "6")
        plan_batches.compose_anew(self.desk, self.slug)
        first, last = self.waiting()
        self.assertEqual([{a.species: a.count for a in b.items} for b in (first, last)],
                         [{"ember_tetra": 10}, {"oscar": 6}])  # fmt: skip
        self.assertGreater(last.planned, first.planned)
        told = plan_changes.changes(self.conn, self.tank.id)[0]
        self.assertIn("6 oscars wait in a last one, for which no day is in sight", told.sentence)
        (date,) = (d for d in look.see(self.desk, self.slug).situation.dates if d.batch_id == last.id)
        self.assertIsNone(date.day)
        plan_batches.undo_change(self.desk, self.slug, told.id)
        self.assertEqual(len(self.waiting()), 1)

    def test_the_keepers_days_are_used(self) -> None:
        with self.assertRaises(Refused):
            preferences.save(self.conn, "free_days", "5 8")
        preferences.save(self.conn, "free_days", "5")
        self.desk = replace(self.desk, preferences=preferences.load(self.conn, ZONE))
        plan_batches.take_days(self.desk, self.slug)
        self.assertEqual(self.waiting()[0].planned.weekday(), 5)

    def test_quarantine_by_the_school_holds_the_gate_until_its_days_are_over(self) -> None:
        keep_tank.change(self.desk, self.slug, replace(self.tank, quarantine="always", quarantine_days=14.0))

        def check():
            (gate,) = look.see(self.desk, self.slug).situation.gates
            return next(c for c in gate.checks if c.key == "quarantine")

        self.assertFalse(check().passed)
        self.begin("quarantine")
        self.assertIn("0 of 14", check().sentence)
        self.later(days=14)
        self.assertTrue(check().passed)

    def begin(self, where: str = "display", bag: Bag | None = None) -> int:
        run = arrive.begin(self.desk, self.slug, self.batch, bag or Bag(1.0, 24.0, 7.2), where, {})
        for step in ("lights", "float"):
            arrive.tick(self.desk, self.slug, run, step, {})
        if where == "quarantine":
            arrive.tick(self.desk, self.slug, run, "across", {"anyway": "1"})
        return run

    def test_the_entries_of_an_arrival_day_write_themselves(self) -> None:
        run = self.begin()
        with self.assertRaises(Refused):
            arrive.tick(self.desk, self.slug, run, "across", {})  # the bag still floats
        self.later(minutes=20)
        arrive.tick(self.desk, self.slug, run, "across", {"alive-ember_tetra": "9", "override": REASON})
        new = journal.entries(self.conn, self.tank.id)[-2:]
        self.assertEqual({e.kind for e in new}, {"note", "arrival"})
        arrival = next(e for e in new if e.kind == "arrival")
        self.assertEqual((arrival.body.count, arrival.body.batch), (9, self.batch))
        note = next(e for e in new if e.kind == "note").body.text
        self.assertIn("1 did not come alive", note)
        self.later(minutes=15)
        arrive.tick(self.desk, self.slug, run, "watch-15", {"text": "calm"}, ["hiding"])
        seen = journal.entries(self.conn, self.tank.id)[-1]
        self.assertEqual((seen.kind, seen.body.signs), ("observation", ("hiding",)))
        for minutes, step in ((45, "watch-60"), (120, "watch-180"), (900, "light_on")):
            self.later(minutes=minutes)
            arrive.tick(self.desk, self.slug, run, step, {})
        self.assertEqual(arrive.day(self.desk, self.slug, run).run.how_ended, "in")

    def test_timers_live_in_the_database(self) -> None:
        run = self.begin()
        again = Desk(self.conn, self.desk.now, self.desk.preferences, REFERENCE, self.desk.forecasting)
        standing = next(s for s in arrive.day(again, self.slug, run).steps if s.current)
        self.assertEqual(standing.opens, NOW + timedelta(minutes=arrive.day(again, self.slug, run).course.minutes))

    def test_one_day_at_a_time_and_a_given_up_one_leaves_the_batch_waiting(self) -> None:
        run = self.begin()
        with self.assertRaises(Refused):
            self.begin()
        arrive.untick(self.desk, self.slug, run)
        self.assertEqual(set(arrive.day(self.desk, self.slug, run).run.done), {"lights"})
        arrive.give_up(self.desk, self.slug, run)
        self.assertIsNone(arrival_runs.open_run(self.conn, self.tank.id))
        self.assertEqual([b.id for b in self.waiting()], [self.batch])

    def test_a_day_whose_batch_is_taken_off_the_plan_bars_no_other(self) -> None:
        self.begin()
        plan_batches.remove_batch(self.desk, self.slug, self.batch)
        self.assertIsNone(arrive.open_day(self.desk, self.slug))
        self.batch = plan_batches.add_batch(self.desk, self.slug, TODAY)
        plan_batches.set_animals(self.desk, self.slug, self.batch, "ember_tetra", "8")
        self.begin()
        self.assertIsNotNone(arrive.open_day(self.desk, self.slug))

    def test_a_gate_that_holds_asks_a_reason_and_keeps_nothing_without(self) -> None:
        self.put("test", 0, ammonia="2", nitrite="1")
        run = self.begin()
        self.later(minutes=20)
        before = len(journal.entries(self.conn, self.tank.id))
        with self.assertRaises(GateClosed):
            arrive.tick(self.desk, self.slug, run, "across", {})
        self.assertEqual(len(journal.entries(self.conn, self.tank.id)), before)
        self.assertNotIn("across", arrive.day(self.desk, self.slug, run).run.done)

    def test_another_way_only_before_water_is_added(self) -> None:
        keep_tank.change(self.desk, self.slug, replace(self.tank, acclimatising=""))  # as each bag asks
        run = arrive.begin(self.desk, self.slug, self.batch, Bag(1.0, 25.0, 7.2), "display", {})
        arrive.choose_way(self.desk, self.slug, run, "drip")
        self.assertEqual(arrive.day(self.desk, self.slug, run).course.way, "drip")
        for step in ("lights", "float", "drip-1"):
            arrive.tick(self.desk, self.slug, run, step, {"anyway": "1"})
        with self.assertRaises(Refused):
            arrive.choose_way(self.desk, self.slug, run, "portions")


class Moves(Stocked):
    def setUp(self) -> None:
        super().setUp()
        self.other = keep_tank.set_up(self.desk, tank(name="Hall 96", started=TODAY - timedelta(days=200)))
        self.put("arrival", 150, on=self.other.slug, species="harlequin_rasbora", count=3)
        self.group = groups(journal.entries(self.conn, self.tank.id))[0]

    def heads(self, of) -> int:
        return sum(g.now for g in groups(journal.entries(self.conn, of.id)))

    def test_out_here_and_in_there_and_back_again(self) -> None:
        total = self.heads(self.tank) + self.heads(self.other)
        left, came = stock_book.move(self.desk, self.slug, self.group.id, self.other.slug, "5", REASON)
        self.assertEqual((self.heads(self.tank), self.heads(self.other)), (7, 8))
        new = groups(journal.entries(self.conn, self.other.id))[-1]
        self.assertEqual(new.seller, self.tank.name)
        self.assertGreater(new.length_cm, 2.5)  # they grew here
        stock_book.undo_move(self.desk, self.slug, left.act_id, self.other.slug, came.act_id)
        self.assertEqual((self.heads(self.tank), self.heads(self.other)), (12, 3))
        self.assertEqual(self.heads(self.tank) + self.heads(self.other), total)

    def test_the_other_tanks_gate_is_asked(self) -> None:
        with self.assertRaises(GateClosed) as told:
            stock_book.move(self.desk, self.slug, self.group.id, self.other.slug, "5")
        self.assertIn("Hall 96", told.exception.sentence)
        self.assertEqual(self.heads(self.other), 3)

    def test_bad_moves(self) -> None:
        for to, count, name in (("", "1", "to"), (self.slug, "1", "to"), (self.other.slug, "99", "count")):
            with self.subTest(to=to, count=count), self.assertRaises(Refused) as told:
                stock_book.move(self.desk, self.slug, self.group.id, to, count, REASON)
            self.assertEqual(told.exception.field, name)
        with self.assertRaises(NotFound):
            stock_book.move(self.desk, self.slug, 9999, self.other.slug, "1", REASON)

    def test_a_death_named_by_group_survives_a_correction_of_the_arrival(self) -> None:
        self.put("arrival", 50, species="harlequin_rasbora", count=4)
        second = groups(journal.entries(self.conn, self.tank.id))[-1]
        stock_book.leave(self.desk, self.slug, second.id, "death", "1", "jumped")
        raw = {"species": "harlequin_rasbora", "count": 5}
        log.correct_entry(
            self.desk, self.slug, second.entry_id, FilledForm("arrival", NOW - timedelta(days=50), raw, {})
        )
        again = {g.id: g for g in groups(journal.entries(self.conn, self.tank.id))}
        self.assertEqual((again[second.id].came, again[second.id].dead), (5, 1))

    def test_heads_are_counted_in_one_act(self) -> None:
        saved = stock_book.count_heads(self.desk, self.slug, {"harlequin_rasbora": "11", "ember_tetra": ""})
        self.assertEqual(len(saved.entry_ids), 1)
        for seen, name in (({"harlequin_rasbora": "x"}, "harlequin_rasbora"), ({"harlequin_rasbora": " "}, "heads")):
            with self.subTest(seen=seen), self.assertRaises(Refused) as told:
                stock_book.count_heads(self.desk, self.slug, seen)
            self.assertEqual(told.exception.field, name)


class OwnSpecies(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.again()

    def again(self) -> Desk:
        self.desk = replace(self.desk, reference=with_own(REFERENCE, self.conn))
        return self.desk

    def keep(self, name: str, like: str = "guppy", **cells: str):
        row = own_species.start_from(self.desk, like) | {"name": name} | cells
        found = own_species.keep(self.desk, "", row)
        self.again()
        return found

    def test_every_row_of_the_catalogue_survives_the_way_through_text(self) -> None:
        for kind in REFERENCE.species.values():
            self.assertEqual(species_from(cells_of(kind), kind.key), kind)

    def test_ours_are_never_touched(self) -> None:
        key, wrong = self.keep("my guppy line", adult_cm="4.2")
        self.assertEqual((key, wrong), ("own_my_guppy_line", {}))
        self.assertEqual(self.desk.reference.species["guppy"], REFERENCE.species["guppy"])
        self.assertEqual(self.desk.reference.species[key].adult_cm, 4.2)

    def test_a_row_made_of_ours_does_not_claim_what_ours_rests_on(self) -> None:
        key, _ = self.keep("my guppy line", adult_cm="4.2")
        mine, ours = self.desk.reference.species[key], REFERENCE.species["guppy"]
        self.assertEqual((mine.checked, mine.confidence, mine.rests_on), ("", "low", "its keeper's own"))
        self.assertEqual((ours.checked, ours.rests_on), ("blind", "handbooks of freshwater keeping"))

    def test_names_of_any_script_have_keys_of_their_own(self) -> None:
        keys = {self.keep(name)[0] for name in ("孔雀鱼", "金魚", "Größe 4")}
        self.assertEqual(len(keys), 3)
        self.assertNotIn("", keys)

    def test_wrong_and_doubled_rows_say_so_at_the_field(self) -> None:
        self.keep("my guppy line")
        for name, cells, field in (
            ("", {}, "name"), ("my guppy line", {}, "name"), ("Guppy", {}, "name"),
            ("x", {"adult_cm": "500"}, "adult_cm"),
            ("x", {"temp_low": "30", "temp_high": "20"}, "temp_low"), ("x", {"zone": "sky"}, "zone"),
        ):  # fmt: skip
            with self.subTest(name=name, cells=cells):
                key, wrong = self.keep(name, **cells)
                self.assertEqual(key, "")
                self.assertIn(field, wrong)

    def test_off_the_list_it_is_still_known_to_old_entries(self) -> None:
        key, _ = self.keep("my guppy line")
        own_species.remove(self.desk, key)
        self.assertNotIn(key, self.again().reference.offered)
        self.assertIn(key, self.desk.reference.species)
        own_species.restore(self.desk, key)
        self.assertIn(key, self.again().reference.offered)

    def test_a_csv_is_taken_whole_or_not_at_all(self) -> None:
        for text, said in (
            ("adult_cm\n4", "‘name’"), ("name,colour\na,red", "colour"), ("name", "no row"),
            ("name,like\na,nobody", "nobody"), ("name,like\n ,guppy", "name"),
            ("name,adult_cm\nfine,4\nlarge,900", "Row 3, adult_cm"),
            ("name\nfine\nfine", "stands in row 2"), ("name\nguppy", "in the catalogue already"),
            ("name,like\na", "fields"),
        ):  # fmt: skip
            with self.subTest(text=text), self.assertRaises(Refused) as told:
                own_species.bring_in(self.desk, text)
            self.assertIn(said, told.exception.sentence)
            self.assertEqual(own_species.own_of(self.again()), [])
        self.assertEqual(own_species.bring_in(self.desk, "name,like,adult_cm\nfine,guppy,4\nother,guppy,5"), 2)

    def test_csv_out_and_in_is_the_same(self) -> None:
        self.keep("my guppy line", adult_cm="4.2")
        out = own_species.as_csv(self.desk)
        row = self.desk.reference.species["own_my_guppy_line"]
        with self.assertRaises(Refused):  # it stands here already
            own_species.bring_in(self.desk, out)
        self.conn.execute("DELETE FROM own_species_revision")
        self.conn.execute("DELETE FROM own_species")
        own_species.bring_in(self.again(), out)
        self.assertEqual(self.again().reference.species["own_my_guppy_line"], row)

    def test_a_bundle_carries_the_species_that_it_names(self) -> None:
        key, _ = self.keep("my guppy line", adult_cm="4.2")
        kept = keep_tank.set_up(self.desk, tank())
        raw = {"species": key, "count": 3}
        log.log_entry(self.desk, kept.slug, FilledForm("arrival", NOW - timedelta(days=3), raw, {}))
        to = Path(self.folder) / "bundle.zip"
        exchange.export(self.desk, kept.slug, to)
        self.assertEqual(exchange.advise_bundle(to, REFERENCE).situation.living[0].species, key)
        changed = own_species.start_from(self.desk, key) | {"name": "my guppy line", "adult_cm": "3.9"}
        own_species.keep(self.desk, key, changed)
        back = exchange.bring_in(self.again(), to)
        lives = groups(journal.entries(self.conn, back.id))[0]
        self.assertEqual(lives.species, f"{key}_2")  # what it said then stands beside what it says now
        self.assertEqual(self.again().reference.species[lives.species].adult_cm, 4.2)

    def test_a_bundle_with_a_broken_row_names_it(self) -> None:
        folder = Path(self.folder) / "b"
        exchange.export(self.desk, keep_tank.set_up(self.desk, tank()).slug, folder)
        text = (folder / "tank.json").read_text("utf-8")
        row = cells_of(REFERENCE.species["guppy"]) | {"key": "own_x", "adult_cm": "many"}
        listed = ", ".join(f'"{k}": "{v}"' for k, v in row.items())
        (folder / "tank.json").write_text(text.rstrip().removesuffix("}") + f', "species": [{{{listed}}}]}}', "utf-8")
        with self.assertRaises(BadBundle) as told:
            exchange.bring_in(self.desk, folder)
        self.assertIn("own_x, adult_cm", told.exception.sentence)


class Locked(WithDesk):
    def test_a_locked_batch_is_locked_in_its_bundle_too(self) -> None:
        kept = keep_tank.set_up(self.desk, tank())
        batch = plan_batches.add_batch(self.desk, kept.slug, TODAY)
        plan_batches.set_animals(self.desk, kept.slug, batch, "guppy", "6")
        plan_batches.lock_batch(self.desk, kept.slug, batch, True)
        exchange.export(self.desk, kept.slug, Path(self.folder) / "b")
        back = exchange.bring_in(self.desk, Path(self.folder) / "b")
        (again,) = batches.batches(self.conn, tanks.tank(self.conn, back.slug).id, ())
        self.assertTrue(again.locked)
        self.assertEqual(again.items, (Animals("guppy", 6),))
