"""Deeds of setting up on real SQLite: fill run, checks, cultures, jobs, waters, reminders, probe, calendar."""

import unittest
import unittest.mock
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import icalendar

from jarbloom.core.bloom.ensemble import prepare
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Instrument, Source, Water
from jarbloom.core.stocking.gate import gate
from jarbloom.deeds import (
    answer_job,
    back_up,
    keep_house,
    keep_tank,
    log,
    look,
    plan_batches,
    probes,
    remind,
    schedule,
    set_up,
)
from jarbloom.deeds.set_up import Culture
from jarbloom.devices.mailer import Unsure
from jarbloom.devices.probe import Measured
from jarbloom.errors import DeviceError, NotFound, Refused
from jarbloom.settings import Settings
from jarbloom.store import db, house, journal, reminders, runs, tanks
from jarbloom.store import probes as kept_probes
from jarbloom.store.reminders import Reminder
from jarbloom.web.rounds import one_round
from tests.make import FEW, NOW, ZONE, WithDesk, tank

SEA = tank(name="Landing 60", salinity_g_kg=35.0, source=Source(chlorine="none"), filled=False)


class FillRun(WithDesk):
    def test_from_dry_to_filled_step_by_step(self) -> None:
        new = keep_tank.set_up(self.desk, tank(filled=False, started=NOW.date(), conditioner_ml_per_100l=20.0))
        for key in ("stand", "rinse", "place", "leak"):
            set_up.tick_step(self.desk, new.slug, key, {})
        with self.assertRaisesRegex(Refused, "needs its time"):
            set_up.tick_step(self.desk, new.slug, "fill", {"litres": "104"})
        self.later(hours=1, minutes=1)
        for typed, said in (({}, "how much"), ({"litres": "a lot"}, "not a number"), ({"litres": "900"}, "to its rim")):
            with self.subTest(typed=typed), self.assertRaisesRegex(Refused, said) as told:
                set_up.tick_step(self.desk, new.slug, "fill", typed)
            self.assertEqual(told.exception.field, "litres")
        set_up.tick_step(self.desk, new.slug, "fill", {"litres": "104"})
        kept = tanks.tank(self.conn, new.slug)
        self.assertEqual((kept.measured_l, kept.filled, kept.started), (104.0, True, self.desk.now.date()))
        set_up.tick_step(self.desk, new.slug, "condition", {})
        conditioner = journal.entries(self.conn, new.id)[-2:]
        self.assertEqual({e.kind for e in conditioner}, {"conditioner", "step"})
        self.assertAlmostEqual(next(e for e in conditioner if e.kind == "conditioner").body.ml, 20.8)
        set_up.tick_step(self.desk, new.slug, "start", {})
        set_up.tick_step(self.desk, new.slug, "heat", {})
        self.later(days=1, minutes=1)
        with self.assertRaisesRegex(Refused, "below the target"):
            set_up.tick_step(self.desk, new.slug, "stable", {"temp": "22"})
        set_up.tick_step(self.desk, new.slug, "stable", {"temp": "25.8"})
        self.assertTrue(all(s.done_at for s in set_up.fill_run(self.desk, new.slug).steps))
        readings = [r for e in journal.entries(self.conn, new.id) for r in e.readings]
        self.assertEqual([r.seen for r in readings], [25.8])

    def test_out_of_turn_twice_and_unknown(self) -> None:
        new = keep_tank.set_up(self.desk, tank(filled=False))
        with self.assertRaisesRegex(Refused, "earlier step"):
            set_up.tick_step(self.desk, new.slug, "heat", {})
        saved = set_up.tick_step(self.desk, new.slug, "stand", {})
        with self.assertRaisesRegex(Refused, "done already"):
            set_up.tick_step(self.desk, new.slug, "stand", {})
        log.undo(self.desk, new.slug, saved.act_id)
        set_up.tick_step(self.desk, new.slug, "stand", {})
        with self.assertRaises(NotFound):
            set_up.tick_step(self.desk, new.slug, "dance", {})

    def test_salinity_is_confirmed_on_two_instruments(self) -> None:
        new = keep_tank.set_up(self.desk, SEA)
        for name, kind, days in (("A", "refractometer", 3), ("B", "hydrometer", 200)):
            keep_house.keep_instrument(self.desk, Instrument(name, kind, NOW.date() - timedelta(days=days)))
        for key in ("stand", "rinse", "place", "leak", "fill", "start", "salt", "settle", "heat"):
            set_up.tick_step(self.desk, new.slug, key, {"anyway": "1", "litres": "60"})
        ask = {"anyway": "1", "first": "A", "second": "B"}
        rows = (
            ({}, "first_reading", "What does it say"), ({"first_reading": "35"}, "second_reading", "What does it say"),
            ({"first_reading": "1.025", "second_reading": "35"}, "first_reading", "looks like"),
            ({"first_reading": "35", "second_reading": "31"}, "second_reading", "Doubt B"),
            ({"first_reading": "30", "second_reading": "30.5"}, "second_reading", "more salt"),
            ({"first_reading": "35", "second_reading": "35", "second": "A"}, "second", "cannot confirm itself"),
            ({"first_reading": "35", "second_reading": "35", "second": "Z"}, "second", "Choose an instrument"),
        )  # fmt: skip
        for typed, field, said in rows:
            with self.subTest(typed=typed), self.assertRaisesRegex(Refused, said) as told:
                set_up.tick_step(self.desk, new.slug, "confirm", ask | typed)
            self.assertEqual(told.exception.field, field)
        set_up.tick_step(self.desk, new.slug, "confirm", ask | {"first_reading": "35", "second_reading": "1.0267 sg"})
        (reading,) = [r for e in journal.entries(self.conn, new.id) for r in e.readings]
        self.assertAlmostEqual(reading.seen, 35.4, delta=0.05)  # the float in water of 26 °C


class ChecksAndCultures(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, tank(devices=("uv", "skimmer")))

    def test_a_check_ticked_and_a_fault(self) -> None:
        set_up.tick_check(self.desk, self.tank.slug, "drip_loop")
        with self.assertRaisesRegex(Refused, "what was wrong") as told:
            set_up.tick_check(self.desk, self.tank.slug, "lid", fault=True)
        self.assertEqual(told.exception.field, "text-lid")
        set_up.tick_check(self.desk, self.tank.slug, "lid", True, "a gap")
        self.assertEqual(len(journal.entries(self.conn, self.tank.id)), 2)
        with self.assertRaises(NotFound):
            set_up.tick_check(self.desk, self.tank.slug, "nothing")

    def test_a_culture_and_what_is_off_for_it_are_one_act(self) -> None:
        until = {"uv": NOW.date() + timedelta(days=5)}
        body = {"source": "bottle_cool", "ml": "100", "use_by": "2026-12-01"}
        saved = set_up.put_in_culture(self.desk, self.tank.slug, Culture(body, ("off_uv", "shake"), until))
        self.assertEqual([e.kind for e in journal.entries(self.conn, self.tank.id)], ["bacteria", "off"])
        log.undo(self.desk, self.tank.slug, saved.act_id)
        self.assertEqual(journal.entries(self.conn, self.tank.id), [])
        past = Culture(body, ("off_uv",), {"uv": NOW.date() - timedelta(days=1)})
        with self.assertRaisesRegex(Refused, "in the past") as told:
            set_up.put_in_culture(self.desk, self.tank.slug, past)
        self.assertEqual(told.exception.field, "until-uv")
        self.assertEqual(journal.entries(self.conn, self.tank.id), [])

    def test_the_shorthand_knows_them(self) -> None:
        for line, kind in (("off uv 5d", "off"), ("on uv", "on"), ("rock 8 kg fresh", "rock"), ("rock 10 lb", "rock")):
            with self.subTest(line=line):
                log.log_line(self.desk, self.tank.slug, line, anyway=True)
                self.assertEqual(journal.entries(self.conn, self.tank.id)[-1].kind, kind)
        log.log_line(self.desk, self.tank.slug, "sal 1.026 sg t 25")
        self.assertAlmostEqual(journal.entries(self.conn, self.tank.id)[-1].readings[-1].seen, 34.5, delta=0.1)
        for line, said in (("off toaster", "which of"), ("rock 8 l", "Use kg"), ("sal 1.5", "specific gravity")):
            with self.subTest(line=line), self.assertRaisesRegex(Refused, said):
                log.log_line(self.desk, self.tank.slug, line)


class Jobs(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, tank(started=NOW.date() - timedelta(days=9), filled=True))
        log.log_line(self.desk, self.tank.slug, "am 0 ni 0")

    def keys(self) -> list[str]:
        return [j.key for j in look.see(self.desk, self.tank.slug).jobs]

    def test_done_writes_its_entry_and_undo_brings_it_back(self) -> None:
        saved = answer_job.done(self.desk, self.tank.slug, "dose")
        self.assertEqual(journal.entries(self.conn, self.tank.id)[-1].kind, "dose")
        self.assertNotIn("dose", self.keys())
        log.undo(self.desk, self.tank.slug, saved.act_id)
        self.assertIn("dose", self.keys())
        answer_job.done(self.desk, self.tank.slug, "check.drip_loop")
        self.assertNotIn("check.drip_loop", self.keys())

    def test_put_off_until_a_day_and_skipped_with_a_reason(self) -> None:
        answer_job.snooze(self.desk, self.tank.slug, "dose", NOW.date() + timedelta(days=2))
        self.assertNotIn("dose", self.keys())
        self.assertEqual([p.key for p in schedule.see_schedule(self.desk).put_off], ["dose"])
        for bad in (NOW.date(), NOW.date() + timedelta(days=400)):
            with self.subTest(until=bad), self.assertRaises(Refused):
                answer_job.snooze(self.desk, self.tank.slug, "dose", bad)
        with self.assertRaisesRegex(Refused, "Say why"):
            answer_job.skip(self.desk, self.tank.slug, "check.drip_loop", " ")
        answer_job.skip(self.desk, self.tank.slug, "check.drip_loop", "away")
        self.assertNotIn("check.drip_loop", self.keys())
        self.later(days=1)
        self.assertIn("check.drip_loop", self.keys())
        self.later(days=1)
        self.assertIn("dose", self.keys())
        with self.assertRaises(NotFound):
            answer_job.done(self.desk, self.tank.slug, "sing")

    def test_what_protects_animals_is_not_put_off_in_silence(self) -> None:
        log.log_line(self.desk, self.tank.slug, "in 6 guppy", reason="a gift")
        self.later(minutes=2)
        log.log_line(self.desk, self.tank.slug, "am 4 ni 2 ph 8")
        with self.assertRaisesRegex(Refused, "protects animals"):
            answer_job.snooze(self.desk, self.tank.slug, "air", NOW.date() + timedelta(days=1))
        answer_job.skip(self.desk, self.tank.slug, "air", "the stone runs already")
        self.assertNotIn("air", self.keys())
        self.later(hours=2)
        self.assertIn("air", self.keys())

    def test_answering_a_job_makes_no_new_forecast(self) -> None:
        look.see(self.desk, self.tank.slug)
        before = self.conn.execute("SELECT count(*) FROM forecast_run").fetchone()[0]
        answer_job.skip(self.desk, self.tank.slug, "check.drip_loop", "away")
        look.see(self.desk, self.tank.slug)
        self.assertEqual(self.conn.execute("SELECT count(*) FROM forecast_run").fetchone()[0], before)
        self.assertIsNotNone(runs)


class House(WithDesk):
    def test_waters_and_instruments_are_revisions_and_come_back(self) -> None:
        first = keep_house.keep_water(self.desk, Water("Tap", "tap", Source(kh_dkh=9.0), NOW.date(), "own kit"))
        kept = house.water(self.conn, first)
        self.assertEqual((kept.source.kh_dkh, kept.source.name, kept.note), (9.0, "Tap", "own kit"))
        keep_house.keep_water(self.desk, replace(kept, source=replace(kept.source, kh_dkh=11.0)))
        self.assertEqual([w.source.kh_dkh for w in house.waters(self.conn)], [11.0])
        self.assertEqual(self.conn.execute("SELECT count(*) FROM house_revision").fetchone()[0], 2)
        keep_house.remove(self.desk, first)
        self.assertEqual(house.waters(self.conn), [])
        keep_house.put_back(self.desk, first)
        self.assertEqual(house.water(self.conn, first).source.kh_dkh, 11.0)
        with self.assertRaises(NotFound):
            house.water(self.conn, 99)

    def test_two_of_one_name_and_days_to_come_are_refused(self) -> None:
        keep_house.keep_water(self.desk, Water("Tap", "tap", Source()))
        keep_house.keep_instrument(self.desk, Instrument("A", "refractometer"))
        tomorrow = NOW.date() + timedelta(days=1)
        rows = (
            (keep_house.keep_water, Water("tap", "tap", Source()), "name"),
            (keep_house.keep_water, Water(" ", "tap", Source()), "name"),
            (keep_house.keep_water, Water("B", "tap", Source(), tomorrow), "measured_on"),
            (keep_house.keep_instrument, Instrument("a", "hydrometer"), "name"),
            (keep_house.keep_instrument, Instrument("B", "hydrometer", tomorrow), "calibrated_on"),
        )
        for deed, thing, field in rows:
            with self.subTest(thing=thing), self.assertRaises(Refused) as told:
                deed(self.desk, thing)
            self.assertEqual(told.exception.field, field)

    def test_a_mix_becomes_the_new_water_of_a_tank(self) -> None:
        new = keep_tank.set_up(self.desk, tank())
        a = keep_house.keep_water(self.desk, Water("Tap", "tap", Source(7.6, 9.0)))
        b = keep_house.keep_water(self.desk, Water("Osmosis", "ro", Source(6.2, 0.0)))
        made = keep_house.mix(self.desk, new, keep_house.Wish(60.0, a, b, target_kh=3.0))
        kept = keep_house.use_for(self.desk, new.slug, made.source)
        self.assertAlmostEqual(kept.source.kh_dkh, 3.0)
        self.assertEqual(kept.source.cold_c, new.source.cold_c)
        self.assertIn("Osmosis", kept.source.name)
        keep_tank.undo_change(self.desk, new.slug)
        self.assertEqual(tanks.tank(self.conn, new.slug).source, new.source)


class Post:
    """A mail server as a list of what it does, one for each mail."""

    def __init__(self, *does: Exception | None) -> None:
        self.does, self.sent = list(does), []

    def send(self, mail) -> None:
        self.sent.append(mail)
        wrong = self.does.pop(0) if self.does else None
        if wrong:
            raise wrong


SETTINGS = {"mail_on": "on", "mail_host": "127.0.0.1", "mail_port": "25", "mail_from": "a@x.invalid",
            "mail_to": "b@x.invalid", "mail_hour": "8", "mail_security": "none"}  # fmt: skip


class Reminders(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, tank())
        remind.keep_mail(self.desk, SETTINGS)

    def at(self, *moment: int, zone: str = ZONE, fold: int = 0) -> None:
        self.desk = replace(self.desk, now=datetime(*moment, tzinfo=ZoneInfo(zone), fold=fold))

    def test_off_by_default_and_not_before_its_hour(self) -> None:
        post = Post()
        remind.keep_mail(self.desk, SETTINGS | {"mail_on": ""})
        self.assertIsNone(remind.remind(self.desk, post))
        remind.keep_mail(self.desk, SETTINGS)
        self.at(2026, 11, 25, 7, 59)
        self.assertIsNone(remind.remind(self.desk, post))
        self.assertEqual(post.sent, [])

    def test_once_a_day_with_what_is_due(self) -> None:
        post = Post()
        for _ in range(4):
            remind.remind(self.desk, post)
            self.later(minutes=30)
        self.assertEqual(len(post.sent), 1)
        self.assertIn("Sunroom 112", post.sent[0].body)
        self.later(days=1)
        remind.remind(self.desk, post)
        self.assertEqual(len({m.message_id for m in post.sent}), 2)

    def test_mail_and_calendar_are_written_in_the_manner_of_the_house(self) -> None:
        log.log_line(self.desk, self.tank.slug, "12:10 in 6 guppy", reason="a gift")
        log.log_line(self.desk, self.tank.slug, "am 8 ni 5 ph 8")
        plain, told = Post(), Post()
        kept = remind.remind(self.desk, plain)
        chosen = replace(self.desk.preferences, clock="12", dates="month", decimals="comma")
        self.desk = replace(self.desk, preferences=chosen)
        days = schedule.calendar_file(self.desk).decode().replace("\r\n ", "")
        self.later(days=1)
        remind.remind(self.desk, told)
        (first,), (second,) = plain.sent, told.sent
        self.assertRegex(first.body, r"at \d\d:\d\d and .* 0\.\d+ mg/L")
        self.assertRegex(second.body, r"at \d{1,2}:\d\d [ap]m and .* 0,\d+ mg/L")
        for text in (second.body, days.replace("VERSION:2.0", "")):
            self.assertNotRegex(text, r"\d \b(?:Nov|Dec)\b|\d\.\d|\bat \d\d:\d\d(?! [ap]m)")
        self.assertNotRegex(first.body, r"\b0\.0[0-4]\d* g\b")  # nothing that no pinch can measure
        assert kept is not None  # what is kept stands as it was made: the page that shows it has a manner of its own
        self.assertEqual(kept.body, first.body)

    def test_a_refusal_is_told_and_tried_again_later(self) -> None:
        post = Post(DeviceError("refused: 451 busy"), DeviceError("refused: 451 busy"))
        first = remind.remind(self.desk, post)
        assert first is not None and first.next_try is not None
        self.assertEqual((first.state, first.last_error), ("refused", "refused: 451 busy"))
        remind.remind(self.desk, post)
        self.assertEqual(len(post.sent), 1)
        self.later(minutes=6)
        remind.remind(self.desk, post)
        self.later(minutes=16)
        last = remind.remind(self.desk, post)
        assert last is not None
        self.assertEqual((len(post.sent), last.state, last.tries), (3, "sent", 3))
        self.later(hours=1)
        remind.remind(self.desk, post)
        self.assertEqual(len(post.sent), 3)

    def test_a_dead_server_is_given_up_for_the_day(self) -> None:
        post = Post(*[DeviceError("gone")] * 50)
        self.at(2026, 11, 25, 8, 0)
        for _ in range(30):
            remind.remind(self.desk, post)
            self.later(minutes=25)
        self.assertEqual(len(post.sent), 1 + len(remind.RETRIES))

    def test_what_may_have_arrived_is_not_sent_again(self) -> None:
        for wrong in (Unsure("the line broke"),):
            post = Post(wrong)
            kept = remind.remind(self.desk, post)
            assert kept is not None
            self.assertEqual(kept.state, "sending")
            self.later(hours=3)
            remind.remind(self.desk, post)
            self.assertEqual(len(post.sent), 1)

    def test_a_kill_while_sending_sends_nothing_twice(self) -> None:
        reminders.keep_reminder(self.conn, Reminder(NOW.date(), "sending", "s", "b", 1, NOW, None, ""))
        post = Post()
        remind.remind(self.desk, post)
        self.assertEqual(post.sent, [])

    def test_the_hour_that_comes_twice_and_the_one_that_does_not_come(self) -> None:
        remind.keep_mail(self.desk, SETTINGS | {"mail_hour": "2"})
        post = Post()
        for fold in (0, 1):  # the end of summer time: 2:30 comes twice
            self.at(2026, 10, 25, 2, 30, fold=fold)
            remind.remind(self.desk, post)
        self.assertEqual(len(post.sent), 1)
        self.at(2027, 3, 28, 1, 59)
        remind.remind(self.desk, post)
        self.at(2027, 3, 28, 3, 0)  # one minute later: 2:00 is skipped
        remind.remind(self.desk, post)
        self.assertEqual(len(post.sent), 2)

    def test_settings_that_cannot_work_name_their_field(self) -> None:
        rows = (
            ({"mail_host": ""}, "mail_host"), ({"mail_port": "99999"}, "mail_port"), ({"mail_port": "x"}, "mail_port"),
            ({"mail_to": "nobody"}, "mail_to"), ({"mail_hour": "25"}, "mail_hour"),
            ({"mail_security": "wax"}, "mail_security"), ({"mail_from": "a@x\r\nBcc: c@x"}, "mail_host"),
        )  # fmt: skip
        for change, field in rows:
            with self.subTest(change=change), self.assertRaises(Refused) as told:
                remind.keep_mail(self.desk, SETTINGS | change)
            self.assertEqual(told.exception.field, field)

    def test_a_password_left_empty_stays(self) -> None:
        remind.keep_mail(self.desk, SETTINGS | {"mail_password": "secret"})
        remind.keep_mail(self.desk, SETTINGS)
        self.assertEqual(reminders.mail_settings(self.conn)["mail_password"], "secret")

    def test_nothing_due_sends_nothing_until_something_is(self) -> None:
        keep_tank.shelve(self.desk, self.tank.slug)
        post = Post()
        kept = remind.remind(self.desk, post)
        assert kept is not None
        self.assertEqual((kept.state, post.sent), ("nothing", []))
        keep_tank.unshelve(self.desk, self.tank.id)
        self.later(hours=1, minutes=1)
        remind.remind(self.desk, post)
        self.assertEqual(len(post.sent), 1)


class Calendars(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, tank())
        self.other = keep_tank.set_up(self.desk, tank(name="Porch"))
        plan_batches.add_batch(self.desk, self.tank.slug, date(2026, 12, 20))

    def events(self, raw: bytes) -> list:
        return icalendar.Calendar.from_ical(raw).walk("VEVENT")

    def test_jobs_come_out_as_events_that_keep_their_identity(self) -> None:
        first = {str(e["uid"]): e for e in self.events(schedule.calendar_file(self.desk))}
        self.assertTrue(any("Test ammonia" in str(e["summary"]) for e in first.values()))
        self.later(days=1)
        second = {str(e["uid"]): e for e in self.events(schedule.calendar_file(self.desk))}
        self.assertGreater(len(set(first) & set(second)), 3)
        raw = schedule.calendar_file(self.desk)
        uids = [str(e["uid"]) for e in self.events(raw)]
        self.assertEqual(len(uids), len(set(uids)))

    def test_timed_ones_are_in_utc(self) -> None:
        log.log_line(self.desk, self.tank.slug, "in 6 guppy am 8 ni 5 ph 8", reason="a gift")
        timed = [
            e for e in self.events(schedule.calendar_file(self.desk)) if isinstance(e.decoded("dtstart"), datetime)
        ]
        self.assertTrue(timed)
        self.assertTrue(all(e.decoded("dtstart").utcoffset() == timedelta(0) for e in timed))
        due = {j.due for j in look.see(self.desk, self.tank.slug).jobs}
        self.assertLessEqual({e.decoded("dtstart") for e in timed}, due)  # the same moment, not the clock's figures

    def test_the_feed_has_a_secret_that_can_be_renewed(self) -> None:
        with self.assertRaises(NotFound):
            schedule.calendar_feed(self.desk, "")
        secret = schedule.open_feed(self.desk)
        self.assertNotIn(secret, str([tuple(r) for r in self.conn.execute("SELECT * FROM preference")]))
        self.assertGreater(len(secret), 25)
        self.assertTrue(self.events(schedule.calendar_feed(self.desk, secret)))
        schedule.open_feed(self.desk)
        for wrong in (secret, "x", "ä"):
            with self.subTest(wrong=wrong), self.assertRaises(NotFound):
                schedule.calendar_feed(self.desk, wrong)

    def test_tanks_are_chosen(self) -> None:
        schedule.choose_tanks(self.desk, {self.other.slug})
        told = {str(e["summary"]).split(":")[0] for e in self.events(schedule.calendar_file(self.desk))}
        self.assertEqual(told, {"Porch"})

    def test_choosing_tanks_makes_no_forecast_while_others_wait_to_write(self) -> None:
        with unittest.mock.patch("jarbloom.deeds.look.see_tank", side_effect=AssertionError("a forecast was made")):
            schedule.choose_tanks(self.desk, {self.tank.slug})


class ProbeDeeds(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, tank(started=NOW.date() - timedelta(days=9)))
        probes.connect(self.desk, self.tank.slug, "http://127.0.0.1:1/v1/x/reading", True)
        self.values = {"temp": 25.0, "ammonia": 0.0}

    def client(self, _url: str):
        return self

    def read(self) -> Measured:
        return Measured(self.desk.now.astimezone(UTC), self.values)

    def hear(self, hours: int, **values: float) -> None:
        self.values = values
        for _ in range(2 * hours):
            probes.poll(self.desk, self.client)
            self.later(minutes=30)

    def test_hours_are_kept_apart_from_the_journal(self) -> None:
        self.hear(3, temp=25.0, ammonia=0.1)
        heard = probes.listen(self.desk, self.tank.slug)
        self.assertEqual([h.n for h in heard.traces["temp"]], [1, 2, 2, 1])
        self.assertEqual(journal.entries(self.conn, self.tank.id), [])

    def test_one_moment_is_counted_once(self) -> None:
        for _ in range(3):
            probes.poll(self.desk, self.client)
        self.assertEqual(probes.listen(self.desk, self.tank.slug).traces["temp"][0].n, 1)

    def test_a_dead_probe_is_told_and_nothing_is_lost(self) -> None:
        self.hear(2, temp=25.0)

        def dead(_url: str):
            raise DeviceError("The probe does not answer: refused.")

        self.assertEqual(probes.poll(self.desk, dead), 0)
        self.later(hours=3)
        heard = probes.listen(self.desk, self.tank.slug)
        assert heard.probe is not None
        self.assertIn("does not answer", heard.probe.last_error)
        self.assertEqual(heard.says.flags[0].key, "stale")
        self.assertTrue(heard.traces["temp"])
        self.assertIn("probe", [j.kind for j in look.see(self.desk, self.tank.slug).jobs])

    def test_a_clock_that_runs_ahead_is_refused(self) -> None:
        ahead = Measured(self.desk.now + timedelta(hours=2), self.values)
        client = type("Ahead", (), {"read": lambda _self: ahead})
        self.assertEqual(probes.poll(self.desk, lambda _url: client()), 0)
        self.assertEqual(probes.listen(self.desk, self.tank.slug).traces, {})

    def test_zeros_of_a_probe_open_no_gate(self) -> None:
        plan_batches.add_batch(self.desk, self.tank.slug, NOW.date())
        self.hear(48, temp=25.0, ammonia=0.0)
        seen = look.see(self.desk, self.tank.slug)
        self.assertNotEqual(seen.verdict.state, "add")
        s = seen.situation
        batch = replace(s.batches[0], items=(Animals("guppy", 1),))
        outlook = look.bloom.summarise(
            prepare(s.tank, s.entries, s.now, s.reference, self.desk.forecasting), [batch]
        ).batches[0]
        found = gate(s.tank, s.entries, batch, outlook, s.forecast, s.reference, s.units)
        self.assertFalse(found.passed)
        self.assertIn("fresh_ammonia", {c.key for c in found.missing})

    def test_an_ammonia_that_rises_asks_for_a_test_only(self) -> None:
        log.log_line(self.desk, self.tank.slug, "am 0 ni 0")
        self.later(hours=1)
        for k in range(8):
            self.hear(1, ammonia=2.0 + 0.01 * k)
        told = {j.kind: j for j in look.see(self.desk, self.tank.slug).jobs}
        self.assertIn("test it", told["probe_test"].why)
        self.assertFalse(told["probe_test"].urgent)

    def test_old_hours_are_let_go_and_a_shelved_tank_is_not_polled(self) -> None:
        self.hear(1, temp=25.0)
        first = self.desk.now
        kept_probes.forget_old(self.conn, first + timedelta(days=5 * 365))
        self.assertTrue(probes.listen(self.desk, self.tank.slug).traces)  # a clock that jumped ahead erases nothing
        for _ in range(402):
            self.hear(1, temp=24.0)
            self.later(hours=23)
        kept_probes.forget_old(self.conn, self.desk.now)
        self.assertEqual(
            kept_probes.traces(self.conn, self.tank.id, first - timedelta(days=1), ZoneInfo(ZONE))["temp"][0].mean, 24.0
        )
        keep_tank.shelve(self.desk, self.tank.slug)
        self.assertEqual(probes.poll(self.desk, self.client), 0)


class TheRounds(WithDesk):
    def test_one_round_does_its_deeds_although_one_fails(self) -> None:
        new = keep_tank.set_up(self.desk, tank())
        probes.connect(self.desk, new.slug, "http://127.0.0.1:9/v1/x/reading", True)
        remind.keep_mail(self.desk, SETTINGS | {"mail_port": "9"})
        state = type("State", (), {})()
        state.path, state.zone, state.reference = self.folder / db.FILE_NAME, ZONE, self.desk.reference
        state.file_id, state.settings = db.file_id(state.path), Settings(self.folder, NOW)
        state.forecasting = FEW
        one_round(state)
        self.assertEqual(len(back_up.see_backups(self.desk).here), 1)
        kept = kept_probes.probe(self.conn, new.id)
        assert kept is not None
        self.assertIn("does not answer", kept.last_error)
        (mail,) = reminders.reminders(self.conn)
        self.assertEqual(mail.state, "refused")


if __name__ == "__main__":
    unittest.main()
