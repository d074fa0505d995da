"""Deeds: logging, correcting, voiding, undoing, batches and the gate, rescue, exchange, the demo."""

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.journal.book import stock
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Source
from jarbloom.deeds import exchange, keep_tank, log, look, plan_batches
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.keep_tank import Trouble
from jarbloom.deeds.log import FilledForm
from jarbloom.errors import Clash, GateClosed, NotFound, Refused
from jarbloom.store import db, journal, plan_changes, tanks
from tests.make import FEW, NOW, REFERENCE, WithDesk, at, demo_folder, tank


class Logging(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, tank())
        self.slug = self.tank.slug

    def live(self):
        return journal.entries(self.conn, self.tank.id)

    def test_a_line_is_one_act_and_undo_takes_all_of_it(self) -> None:
        saved = log.log_line(self.desk, self.slug, "am .25 ni 1 wc 30%")
        self.assertEqual([e.kind for e in self.live()], ["test", "change"])
        undone = log.undo(self.desk, self.slug, saved.act_id)
        self.assertEqual(self.live(), [])
        log.undo(self.desk, self.slug, undone.act_id)
        self.assertEqual(len(self.live()), 2)
        with self.assertRaises(Refused):
            log.undo(self.desk, self.slug, saved.act_id)

    def test_nothing_is_saved_while_a_word_is_open(self) -> None:
        for line, said in (
            ("am .25 na 1o", "did you mean 10"),
            ("gibberish here", "not understood"),
            ("", "Type what"),
        ):
            with self.subTest(line=line), self.assertRaisesRegex(Refused, said):
                log.log_line(self.desk, self.slug, line)
        self.assertEqual(self.live(), [])

    def test_a_correction_supersedes_and_can_be_undone(self) -> None:
        saved = log.log_line(self.desk, self.slug, "am 8 ni 1")
        filled = FilledForm("test", NOW, {}, {"ammonia": "0.5", "nitrite": "1"}, "misread")
        fixed = log.correct_entry(self.desk, self.slug, saved.entry_ids[0], filled)
        (now,) = self.live()
        self.assertEqual((now.readings[0].typed, now.supersedes, now.note), ("0.5", saved.entry_ids[0], "misread"))
        whole = journal.entries(self.conn, self.tank.id, live_only=False)
        self.assertEqual([e.state for e in whole], ["superseded", "live"])
        with self.assertRaises(Refused):
            log.correct_entry(self.desk, self.slug, saved.entry_ids[0], filled)
        with self.assertRaises(Refused):
            log.undo(self.desk, self.slug, saved.act_id)  # changed since: the later change comes first
        log.undo(self.desk, self.slug, fixed.act_id)
        self.assertEqual(self.live()[0].readings[0].typed, "8")

    def test_voiding_can_be_undone(self) -> None:
        saved = log.log_line(self.desk, self.slug, "dose 2 mg/l")
        voided = log.void_entry(self.desk, self.slug, saved.entry_ids[0])
        self.assertEqual(self.live(), [])
        log.undo(self.desk, self.slug, voided.act_id)
        self.assertEqual(len(self.live()), 1)

    def test_what_was_corrected_twice_stays_superseded(self) -> None:
        saved = log.log_line(self.desk, self.slug, "am 8")
        first, acts = saved.entry_ids[0], [saved.act_id]
        last = first
        for typed in ("4", "2"):
            fixed = log.correct_entry(self.desk, self.slug, last, FilledForm("test", NOW, {}, {"ammonia": typed}))
            last = fixed.entry_ids[0]
            acts.append(fixed.act_id)

        def states() -> list[str]:
            return [e.state for e in journal.entries(self.conn, self.tank.id, live_only=False)]

        self.assertEqual(states(), ["superseded", "superseded", "live"])
        self.assertEqual(journal.entry(self.conn, self.tank.id, first).state, "superseded")
        to = self.folder / "twice.zip"
        exchange.export(self.desk, self.slug, to)
        back = exchange.bring_in(self.desk, to)
        self.assertEqual([e.state for e in journal.entries(self.conn, back.id, live_only=False)], states())
        log.undo(self.desk, self.slug, acts[2])
        self.assertEqual(states(), ["superseded", "live", "void"])
        log.void_entry(self.desk, self.slug, last - 1)
        self.assertEqual(states(), ["void", "void", "void"])

    def test_nothing_is_read_or_lives_before_the_first_day_with_water(self) -> None:
        for line in ("1 nov 12:00 am 0", "1 nov 12:00 in 8 harlequin rasboras"):
            with self.subTest(line=line), self.assertRaisesRegex(Refused, "set up on 2 Nov 2026"):
                log.log_line(self.desk, self.slug, line)
        with self.assertRaises(Refused) as told:
            log.log_entry(self.desk, self.slug, FilledForm("test", at(23), {}, {"nitrite": "0"}))
        self.assertEqual(told.exception.field, "at")
        log.log_line(self.desk, self.slug, "2 nov 12:00 am 0")
        self.assertEqual(len(self.live()), 1)

    def test_the_same_line_sent_at_once_is_saved_once(self) -> None:
        told = self.at_once([lambda d: log.log_line(d, self.slug, "dose 2 mg/l")] * 6)
        self.assertEqual([type(t) for t in told if isinstance(t, Exception)], [Clash] * 5)
        self.assertEqual([e.kind for e in self.live()], ["dose"])

    def test_an_undo_sent_at_once_is_done_once(self) -> None:
        saved = log.log_line(self.desk, self.slug, "dose 2 mg/l")
        told = self.at_once([lambda d: log.undo(d, self.slug, saved.act_id)] * 6)
        self.assertEqual(len([t for t in told if isinstance(t, Refused)]), 5)
        self.assertEqual(len([a for a in journal.latest_acts(self.conn, self.tank.id) if a.kind == "undo"]), 1)
        fixing = log.log_line(self.desk, self.slug, "am 8").entry_ids[0]
        told = self.at_once(
            [lambda d: log.correct_entry(d, self.slug, fixing, FilledForm("test", NOW, {}, {"ammonia": "4"}))] * 4
            + [lambda d: log.void_entry(d, self.slug, fixing)] * 2
        )
        self.assertEqual(len([t for t in told if isinstance(t, Refused)]), 5)
        self.assertEqual(db.check(self.conn), [])

    def at_once(self, calls: list[Callable[[Desk], object]]) -> list[object]:
        """Each call on a thread and a connection of its own; what they return or raise."""
        gate = threading.Barrier(len(calls))

        def one(call: Callable[[Desk], object]) -> object:
            conn = db.connect(self.folder / db.FILE_NAME)
            try:
                gate.wait(30)
                return call(replace(self.desk, conn=conn))
            except (Refused, NotFound) as problem:
                return problem
            finally:
                conn.close()

        with ThreadPoolExecutor(len(calls)) as pool:
            return list(pool.map(one, calls))

    def test_the_same_at_the_same_minute_is_asked_about(self) -> None:
        log.log_line(self.desk, self.slug, "am .25")
        with self.assertRaises(Clash):
            log.log_line(self.desk, self.slug, "am .5")
        log.log_line(self.desk, self.slug, "ni 1")  # another quantity is no clash
        log.log_line(self.desk, self.slug, "am .5", anyway=True)
        self.assertEqual(len(self.live()), 3)
        log.log_line(self.desk, self.slug, "dose 2 mg/l")
        with self.assertRaises(Clash):
            log.log_line(self.desk, self.slug, "dose 2 mg/l")

    def test_forms_refuse_at_the_field(self) -> None:
        rows = (
            (FilledForm("test", NOW), "ammonia"),
            (FilledForm("change", NOW, {"litres": 900.0}), "litres"),
            (FilledForm("test", NOW + timedelta(days=1), {}, {"ammonia": "0"}), "at"),
            (FilledForm("note", NOW, {"text": "x" * 20_001}), "text"),
            (FilledForm("test", NOW, {}, {"ammonia": "0"}, "n" * 20_001), "note"),
            (FilledForm("death", NOW, {"species": "guppy", "count": 1}), "species"),
            (FilledForm("arrival", NOW, {"species": "dragon", "count": 1}), "species"),
        )
        for filled, field in rows:
            with self.subTest(field=field, kind=filled.kind), self.assertRaises(Refused) as told:
                log.log_entry(self.desk, self.slug, filled)
            self.assertEqual(told.exception.field, field)
        self.assertEqual(self.live(), [])

    def test_deaths_lower_the_stock_and_cannot_exceed_it(self) -> None:
        log.log_line(self.desk, self.slug, "3 days ago in 8 harlequin rasboras", reason="bought before")
        log.log_line(self.desk, self.slug, "dead 2 rasboras")
        self.assertEqual(stock(self.live())[0].count, 6)
        with self.assertRaises(Refused):
            log.log_line(self.later(minutes=2), self.slug, "dead 7 rasboras")

    def test_a_late_entry_is_put_where_it_happened(self) -> None:
        log.log_line(self.desk, self.slug, "am 0")
        log.log_line(self.desk, self.slug, "yesterday 9:00 am 2")
        self.assertEqual([e.readings[0].typed for e in self.live()], ["2", "0"])
        self.assertEqual(self.live()[0].recorded_at, NOW)

    def test_forecast_is_kept_until_an_input_changes(self) -> None:
        first = look.see(self.desk, self.slug)
        count = "SELECT count(*) FROM forecast_run"
        look.see(self.later(minutes=10), self.slug)
        self.assertEqual(self.conn.execute(count).fetchone()[0], 1)
        log.log_line(self.desk, self.slug, "am 2 ni 0")
        second = look.see(self.desk, self.slug)
        self.assertNotEqual(first.situation.forecast.as_of, second.situation.forecast.as_of)
        self.assertEqual(second.situation.forecast.n_readings, 2)

    def test_a_tank_stands_as_it_stood_until_anything_that_it_follows_from_changes(self) -> None:
        t = keep_tank.set_up(self.desk, tank())
        log.log_line(self.desk, t.slug, "am 1 ni 0 ph 7.2")
        first = look.see(self.desk, t.slug)
        self.assertIs(look.see(replace(self.desk, now=NOW + timedelta(seconds=10)), t.slug), first)
        batch = plan_batches.add_batch(self.desk, t.slug, NOW.date() + timedelta(days=9))
        for what, change in (
            ("a batch", lambda: plan_batches.set_animals(self.desk, t.slug, batch, "guppy", "3")),
            ("a lock", lambda: plan_batches.lock_batch(self.desk, t.slug, batch, True)),
            ("a quiet note", lambda: log.log_line(self.desk, t.slug, "note all well")),
            ("a setting", lambda: keep_tank.change(self.desk, t.slug, replace(t, ph=7.9))),
            ("a minute", lambda: setattr(self, "desk", replace(self.desk, now=self.desk.now + timedelta(minutes=1)))),
            ("an own catalogue", lambda: setattr(self, "desk", replace(self.desk, reference=replace(REFERENCE)))),
        ):  # fmt: skip
            with self.subTest(what=what):
                before = look.see(self.desk, t.slug)
                change()
                self.assertIsNot(look.see(self.desk, t.slug), before)
        self.assertTrue(any(e.kind == "note" for e in look.see(self.desk, t.slug).situation.entries))


class Tanks(WithDesk):
    def test_settings_are_revisions(self) -> None:
        kept = keep_tank.set_up(self.desk, tank())
        keep_tank.change(self.desk, kept.slug, replace(kept, temp_c=22.0))
        self.assertEqual(keep_tank.undo_change(self.desk, kept.slug).temp_c, 26)
        keep_tank.shelve(self.desk, kept.slug)
        with self.assertRaises(NotFound):
            look.see(self.desk, kept.slug)
        keep_tank.unshelve(self.desk, kept.id)
        self.assertEqual(tanks.tank(self.conn, kept.slug).name, kept.name)

    def test_wrong_settings_name_their_field(self) -> None:
        for changes, field in (
            ({"name": " "}, "name"),
            ({"started": NOW.date() + timedelta(days=2)}, "started"),
            ({"source": Source(cold_c=50, hot_c=40)}, "hot_c"),
            ({"substrate_cm": 60}, "substrate_cm"),
        ):
            with self.subTest(field=field), self.assertRaises(Refused) as told:
                keep_tank.set_up(self.desk, tank(**changes))
            self.assertEqual(told.exception.field, field)

    def test_rescue_logs_what_was_told_and_acts(self) -> None:
        told = Trouble(
            "Mine",
            60.0,
            (Animals("guppy", 5), Animals("unknown", 2)),
            4,
            25.0,
            {"ammonia": "2", "nitrite": "0.5", "ph": "8", "temp": ""},
            ("gasping",),
            "since yesterday",
        )
        kept = keep_tank.rescue(self.desk, told)
        seen = look.see(self.desk, kept.slug)
        self.assertEqual(seen.verdict.state, "act")
        self.assertEqual(sum(g.count for g in seen.situation.living), 7)
        self.assertEqual([e.kind for e in seen.situation.entries], ["arrival", "arrival", "test", "observation"])
        self.assertEqual((kept.school, kept.ph), ("fish_in_watched", 8.0))
        with self.assertRaises(Refused):
            keep_tank.rescue(self.desk, replace(told, animals=()))


class Batches(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.slug = keep_tank.set_up(self.desk, tank()).slug
        self.batch = plan_batches.add_batch(self.desk, self.slug, NOW.date())
        plan_batches.set_animals(self.desk, self.slug, self.batch, "harlequin_rasbora", "8")

    def test_the_gate_holds_without_proof_and_a_reason_opens_it(self) -> None:
        with self.assertRaises(GateClosed) as told:
            plan_batches.they_are_in(self.desk, self.slug, self.batch, NOW)
        self.assertIn("one clean test", told.exception.sentence)
        with self.assertRaises(GateClosed):
            plan_batches.they_are_in(self.desk, self.slug, self.batch, NOW, " ok ")
        saved = plan_batches.they_are_in(self.desk, self.slug, self.batch, NOW, "the shop closes for good")
        arrival = journal.entry(self.conn, 1, saved.entry_ids[0])
        self.assertEqual(arrival.body.override, "the shop closes for good")
        self.assertEqual(plan_batches.batch(self.desk, self.slug, self.batch).arrived, NOW.date())
        with self.assertRaises(Refused):
            plan_batches.they_are_in(self.desk, self.slug, self.batch, NOW, "once more please")
        log.undo(self.desk, self.slug, saved.act_id)
        self.assertIsNone(plan_batches.batch(self.desk, self.slug, self.batch).arrived)

    def test_plan_changes_are_checked(self) -> None:
        for species, count, field in (
            ("dragon", "3", "species"),
            ("guppy", "-1", "count"),
            ("guppy", "2.5", "count"),
            ("guppy", "many", "count"),
            ("guppy", "5000", "count"),
        ):
            with self.subTest(species=species, count=count), self.assertRaises(Refused) as told:
                plan_batches.set_animals(self.desk, self.slug, self.batch, species, count)
            self.assertEqual(told.exception.field, field)
        with self.assertRaises(Refused):
            plan_batches.move_batch(self.desk, self.slug, self.batch, NOW.date() - timedelta(days=1))
        plan_batches.move_batch(self.desk, self.slug, self.batch, NOW.date() + timedelta(days=9))
        plan_batches.remove_batch(self.desk, self.slug, self.batch)
        with self.assertRaises(NotFound):
            plan_batches.batch(self.desk, self.slug, self.batch)
        change = plan_changes.changes(self.conn, tanks.tank(self.conn, self.slug).id)[0]
        plan_batches.undo_change(self.desk, self.slug, change.id)
        plan_batches.set_animals(self.desk, self.slug, self.batch, "harlequin_rasbora", "0")
        self.assertEqual(plan_batches.batch(self.desk, self.slug, self.batch).items, ())


class BadAnimals(WithDesk):
    def test_sizes_beyond_adult_and_days_before_the_tank_are_told_at_their_field(self) -> None:
        slug = keep_tank.set_up(self.desk, tank()).slug
        before = NOW - timedelta(days=60)
        for moment, raw, field in (
            (NOW, {"species": "ember_tetra", "count": 8, "length_cm": 22}, "length_cm"),
            (before, {"species": "ember_tetra", "count": 8}, "at"),
        ):
            with self.subTest(raw=raw), self.assertRaises(Refused) as told:
                log.log_entry(self.desk, slug, FilledForm("arrival", moment, raw, {}))
            self.assertEqual(told.exception.field, field)
        with self.assertRaises(Refused) as told:
            log.log_line(self.desk, slug, f"in 8 ember tetra {before:%-d %b}", reason="bought before")
        self.assertIn("was set up on", told.exception.sentence)


class Exchange(WithDesk):
    def test_the_whole_journal_goes_out_and_in(self) -> None:
        kept = keep_tank.set_up(self.desk, tank())
        plan_batches.set_animals(
            self.desk, kept.slug, plan_batches.add_batch(self.desk, kept.slug, NOW.date()), "guppy", "6"
        )
        first = log.log_line(self.desk, kept.slug, "2 days ago am 2 ni 0 na 5 t 77f")
        log.correct_entry(
            self.desk, kept.slug, first.entry_ids[0], FilledForm("test", NOW - timedelta(days=2), {}, {"ammonia": "1"})
        )
        voided = log.log_line(self.desk, kept.slug, "note wrong tank")
        log.void_entry(self.desk, kept.slug, voided.entry_ids[0])
        plan_batches.they_are_in(self.desk, kept.slug, 1, NOW, "a test of the record")
        for name in ("out", "out.zip"):
            with self.subTest(name=name):
                exchange.export(self.desk, kept.slug, self.folder / name)
                back = exchange.bring_in(self.desk, self.folder / name)
                a = journal.entries(self.conn, kept.id, live_only=False)
                b = journal.entries(self.conn, back.id, live_only=False)
                self.assertEqual(
                    [(e.kind, e.at, e.readings, e.state, e.note) for e in a],
                    [(e.kind, e.at, e.readings, e.state, e.note) for e in b],
                )
                self.assertEqual([e.state for e in b].count("superseded"), 1)
                self.assertEqual(replace(back, id=0, slug=""), replace(kept, id=0, slug=""))
                found = plan_batches.batch(
                    self.desk, back.slug, max(r[0] for r in self.conn.execute("SELECT id FROM batch"))
                )
                self.assertEqual(found.arrived, NOW.date())

    def test_advice_on_a_bundle_is_the_same_each_time(self) -> None:
        kept = keep_tank.set_up(self.desk, tank())
        log.log_line(self.desk, kept.slug, "3 days ago am 2 ni 0")
        exchange.export(self.desk, kept.slug, self.folder / "b")
        one, two = (exchange.advise_bundle(self.folder / "b", REFERENCE, NOW) for _ in range(2))
        self.assertEqual(one.verdict, two.verdict)
        self.assertEqual(one.situation.forecast.sure, two.situation.forecast.sure)
        earlier = exchange.advise_bundle(self.folder / "b", REFERENCE, NOW - timedelta(days=5))
        self.assertEqual(earlier.situation.forecast.n_readings, 0)


class Demo(WithDesk):
    def test_five_tanks_in_their_states(self) -> None:
        with demo_folder() as folder:
            conn = db.connect(folder / db.FILE_NAME)
            self.addCleanup(conn.close)
            desk = Desk(conn, NOW, self.desk.preferences, REFERENCE, FEW)
            seen = {s.tank.name: s for s in look.see_bench(desk).seen}
            self.assertEqual(set(seen), {"Sunroom 112", "Hall 96", "Desk 28", "Landing 60", "Alcove 180"})
            self.assertEqual(seen["Hall 96"].verdict.state, "act")
            self.assertEqual(seen["Sunroom 112"].verdict.state, "hold")
            self.assertFalse(seen["Desk 28"].tank.filled)
            self.assertGreater((NOW.date() - seen["Alcove 180"].tank.started).days, 900)
            self.assertIsNone(seen["Alcove 180"].situation.response)
            self.assertEqual((NOW.date() - seen["Sunroom 112"].tank.started).days, 22)
            self.assertEqual(sum(e.body.count for e in seen["Hall 96"].situation.entries if e.kind == "death"), 1)
            self.assertEqual(len([b for b in seen["Sunroom 112"].situation.batches if b.items]), 2)
            self.assertEqual(db.check(conn), [])
            self.assertTrue(all(e.at <= NOW for s in seen.values() for e in s.situation.entries))
