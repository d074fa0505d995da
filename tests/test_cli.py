"""The command: help, bundles in and out, backup, check, and a server on the next free port."""

import contextlib
import io
import json
import re
import signal
import socket
import subprocess
import sys
import tempfile
import unittest
import unittest.mock
import urllib.request
from dataclasses import dataclass, fields
from pathlib import Path

from jarbloom import commands, settings
from jarbloom.cli import run
from jarbloom.store import db, journal, tanks
from jarbloom.store.folder import held
from tests.make import FEW, NOW, demo_folder, tank


@dataclass(frozen=True)
class Told:
    returncode: int
    stdout: str
    stderr: str


def jarbloom(*arguments: str) -> Told:
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = run(list(arguments))
    return Told(code, out.getvalue(), err.getvalue())


class Commands(unittest.TestCase):
    def test_help_names_every_command(self) -> None:
        told = jarbloom("--help")
        self.assertEqual(told.returncode, 0)
        for name in ("serve", "demo", "forecast", "advise", "export", "import", "backup", "check"):
            self.assertIn(name, told.stdout)

    def test_out_in_advise_and_check(self) -> None:
        with demo_folder() as folder, tempfile.TemporaryDirectory() as other:
            bundle, fresh = Path(other) / "sunroom.zip", Path(other) / "fresh"
            self.assertEqual(jarbloom("export", "sunroom-112", str(bundle), "--data", str(folder)).returncode, 0)
            again = jarbloom("export", "sunroom-112", str(bundle), "--data", str(folder))
            self.assertEqual(again.returncode, 2)
            self.assertIn("never writes over", again.stderr)
            self.assertIn("sunroom-112", jarbloom("import", str(bundle), "--data", str(fresh)).stdout)
            conn = db.connect(fresh / db.FILE_NAME)
            self.addCleanup(conn.close)
            self.assertEqual([t.name for t in tanks.all_tanks(conn)], ["Sunroom 112"])
            answer = json.loads(jarbloom("advise", str(bundle), "--as-of", "2026-11-20", "--json").stdout)
            self.assertTrue(answer["as_of"].startswith("2026-11-20"))
            self.assertEqual(answer["verdict"]["state"], "hold")
            told = json.loads(jarbloom("forecast", str(bundle), "--json").stdout)
            self.assertGreater(len(told["days"]), 40)
            self.assertEqual(told["what_ifs"], [])
            asked = Path(other) / "what-ifs.json"
            change = {"when": "2026-11-26T18:00+01:00", "kind": "change", "amount": 50, "unit": "%"}
            asked.write_text(json.dumps({"what_ifs": [{"name": "half", "entries": [change]}]}), "utf-8")
            compared = json.loads(jarbloom("forecast", str(bundle), "--what-if", str(asked), "--json").stdout)
            self.assertEqual([w["name"] for w in compared["what_ifs"]], ["as planned", "half"])
            self.assertEqual(compared["days"], told["days"])
            earlier = json.loads(jarbloom("forecast", str(bundle), "--as-of", "2026-11-14", "--json").stdout)
            self.assertTrue(earlier["as_of"].startswith("2026-11-14"))
            self.assertEqual(json.loads(jarbloom("schema").stdout)["title"], "jarbloom-bundle: tank.json")
            self.assertIn("mg N a day", jarbloom("forecast", str(bundle)).stdout)
            checked = jarbloom("check", "--data", str(folder))
            self.assertEqual((checked.returncode, checked.stdout.split(",")[1].strip()), (0, "0 problems."))
            copy = Path(other) / "copy.db"
            self.assertEqual(jarbloom("backup", str(copy), "--data", str(folder)).returncode, 0)
            self.assertTrue(copy.stat().st_size > 10_000)

    def test_a_mistake_ends_the_process_with_two(self) -> None:
        told = subprocess.run([sys.executable, "-m", "jarbloom", "advise", "/nowhere"], capture_output=True, text=True)
        self.assertEqual((told.returncode, told.stdout, told.stderr), (2, "", "/nowhere is not there.\n"))
        self.assertEqual(jarbloom("dance").returncode, 2)

    def test_mistakes_are_told_in_a_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for arguments in (
                ("advise", "/nowhere"),
                ("export", "nothing", "/tmp/x", "--data", folder),
                ("advise", folder, "--as-of", "soon"),
            ):
                with self.subTest(arguments=arguments):
                    told = jarbloom(*arguments)
                    self.assertEqual(told.returncode, 2)
                    self.assertNotIn("Traceback", told.stderr)
                    self.assertEqual(len(told.stderr.strip().splitlines()), 1)

    def test_a_server_that_is_told_to_stop_waits_no_longer_than_a_few_seconds_for_its_pages(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            unittest.mock.patch("uvicorn.Server") as server,
            contextlib.redirect_stdout(io.StringIO()),
        ):
            commands._serve(settings.Settings(Path(folder)), settings.PORT)
            (config,) = server.call_args.args
        self.assertLess(config.timeout_graceful_shutdown, 5)

    def test_serve_takes_the_next_free_port_and_starts_empty(self) -> None:
        with tempfile.TemporaryDirectory() as folder, socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            server = subprocess.Popen(
                [sys.executable, "-m", "jarbloom", "serve", "--data", folder, "--port", str(port)],
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                text=True,
            )
            try:
                assert server.stdout is not None
                address = re.search(r"http://127\.0\.0\.1:(\d+)/", server.stdout.readline())
                assert address is not None
                self.assertNotEqual(int(address[1]), port)
                with urllib.request.urlopen(address[0], timeout=30) as answer:
                    page = answer.read().decode()
                self.assertIn("A dry tank", page)
            finally:
                server.send_signal(signal.SIGINT)
                server.communicate(timeout=20)


class DataFolder(unittest.TestCase):
    """A demo makes its tanks anew each time: it may only ever do so where a demo has made them before."""

    def setUp(self) -> None:
        # Where a refusal fails to come nothing is served for ever.
        self.enterContext(unittest.mock.patch("jarbloom.commands._serve", side_effect=AssertionError("it was served")))

    def test_a_demo_refuses_what_no_demo_has_made(self) -> None:
        with tempfile.TemporaryDirectory() as holder:
            folder = Path(holder)
            conn = db.connect(db.open_store(folder))
            tanks.add(conn, tank(), NOW)
            conn.close()
            before = (folder / db.FILE_NAME).read_bytes()
            for more in ((), ("--keep",)):
                told = jarbloom("demo", "--data", holder, *more)
                self.assertEqual(told.returncode, 2)
                self.assertIn("no demo has made", told.stderr)
            self.assertEqual((folder / db.FILE_NAME).read_bytes(), before)

    def test_own_tanks_are_not_served_from_a_demos_folder(self) -> None:
        with demo_folder() as folder:
            told = jarbloom("serve", "--data", str(folder))
            self.assertEqual(told.returncode, 2)
            self.assertIn("made-up tanks", told.stderr)

    def test_a_second_demo_leaves_the_first_ones_tanks_alone(self) -> None:
        with demo_folder() as folder, held(folder, "jarbloom demo"):
            before = (folder / db.FILE_NAME).read_bytes()
            told = jarbloom("demo", "--data", str(folder))
            self.assertEqual(told.returncode, 2)
            self.assertIn("is held by jarbloom demo, process", told.stderr)
            self.assertEqual((folder / db.FILE_NAME).read_bytes(), before)

    def test_a_newer_database_is_told_in_a_line(self) -> None:
        with tempfile.TemporaryDirectory() as holder:
            conn = db.connect(db.open_store(Path(holder)))
            conn.execute("PRAGMA user_version = 99")
            conn.close()
            for command in (("check",), ("export", "sunroom-112", str(Path(holder) / "out.zip"))):
                with self.subTest(command=command):
                    told = jarbloom(*command, "--data", holder)
                    self.assertEqual(told.returncode, 2)
                    self.assertIn("newer version (99)", told.stderr)
                    self.assertEqual(len(told.stderr.strip().splitlines()), 1)

    def test_check_names_what_cannot_be_read(self) -> None:
        with demo_folder() as folder:
            self.assertEqual(jarbloom("check", "--data", str(folder)).returncode, 0)
            conn = db.connect(folder / db.FILE_NAME)
            self.addCleanup(conn.close)
            with db.transaction(conn):
                act = journal.new_act(conn, 1, "import", NOW, "x")
                damaged = conn.execute(
                    """INSERT INTO entry (tank_id, act_id, kind, at, at_utc, zone, who, note, body, recorded_at)
                       VALUES (1, ?, 'dance', '2026-11-20T10:00:00+01:00', 1795165200, 'UTC', '', '', '{}', 'x')
                       RETURNING id""",
                    (act,),
                ).fetchone()["id"]
                journal.mark(conn, act, damaged, True)
            told = jarbloom("check", "--data", str(folder))
            self.assertNotEqual(told.returncode, 0)
            self.assertIn(f"entry {damaged}", told.stdout + told.stderr)


class StandIns(unittest.TestCase):
    """The demo as it is started: its stand-ins are processes of their own and end with it."""

    def test_the_demo_is_served_with_a_probe_and_a_mail_server_that_end_with_it(self) -> None:
        with demo_folder() as folder, socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            port = free.getsockname()[1]
            free.close()
            command = [sys.executable, "-m", "jarbloom", "demo", "--keep", "--data", str(folder), "--port", str(port)]
            command += ["--now", NOW.isoformat(), "--members", str(FEW.members)]
            demo = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
            try:
                assert demo.stdout is not None
                told = re.search(r"probe on port (\d+).*(http://127\.0\.0\.1:\d+/)", demo.stdout.readline())
                assert told is not None
                probe = f"http://127.0.0.1:{told[1]}/v1/landing-60/reading"
                with urllib.request.urlopen(probe, timeout=30) as answer:
                    self.assertAlmostEqual(json.load(answer)["salinity_g_kg"], 35.2, delta=1.0)
                with urllib.request.urlopen(told[2], timeout=30) as answer:
                    self.assertIn("Stand-in mail server", answer.read().decode())
                self.assertIn("Jar Bloom is at", demo.stdout.readline())
            finally:
                demo.send_signal(signal.SIGINT)
                demo.communicate(timeout=30)
            for address in (probe, told[2]):
                with self.subTest(address=address), self.assertRaises(OSError):
                    urllib.request.urlopen(address, timeout=5)

    def test_their_help(self) -> None:
        told = jarbloom("stand-in", "--help")
        self.assertEqual(told.returncode, 0)
        self.assertIn("probe", told.stdout)
        self.assertIn("mail", told.stdout)


class Settings(unittest.TestCase):
    def test_every_setting_is_documented(self) -> None:
        self.assertEqual(set(settings.HELP), {f.name for f in fields(settings.Settings)})

    def test_the_clock_can_stand_still_and_is_in_the_keepers_zone(self) -> None:
        from zoneinfo import ZoneInfo

        fixed = settings.Settings(Path("."), NOW.replace(tzinfo=None))
        self.assertEqual(fixed.clock(ZoneInfo("Europe/Berlin")), NOW)
        moved = settings.Settings(Path("."), NOW).clock(ZoneInfo("America/New_York"))
        self.assertEqual((moved, moved.hour), (NOW, 12))
        self.assertIsNotNone(settings.Settings(Path(".")).clock(ZoneInfo("UTC")).tzinfo)
        ZoneInfo(settings.local_zone())
