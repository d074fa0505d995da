"""Probe and mail over real loopback sockets: round trips, refusals, damaged answers."""

import json
import socket
import threading
import unittest
import urllib.error
import urllib.request
from datetime import timedelta

from jarbloom.devices.mailer import Mail, MailServer, SmtpMailer, Unsure
from jarbloom.devices.probe import HttpProbe, check_url, understand
from jarbloom.devices.stand_in_mail import Inbox, page, serve_page, serve_smtp
from jarbloom.devices.stand_in_probe import serve_probe
from jarbloom.devices.stand_ins import free_port
from jarbloom.errors import DeviceError, Refused
from tests.make import NOW

TRUTH = {"temp": 25.0, "ph": 7.4, "ammonia": 0.5}
MAIL = Mail("a@sunroom.invalid", "b@sunroom.invalid", "3 jobs, café", "Test “ammonia”\n- feed", "<1@x.invalid>")


def open_port() -> int:
    with socket.socket() as door:
        door.bind(("127.0.0.1", 0))
        return door.getsockname()[1]


class Probe(unittest.TestCase):
    def setUp(self) -> None:
        self.port = open_port()
        self.now = NOW
        server = serve_probe(self.port, lambda tank, _: TRUTH if tank == "sunroom-112" else None, lambda: self.now)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        self.probe = HttpProbe(self.address("reading"))

    def address(self, what: str, tank: str = "sunroom-112") -> str:
        return f"http://127.0.0.1:{self.port}/v1/{tank}/{what}"

    def post(self, what: str) -> int:
        request = urllib.request.Request(self.address(what), method="POST", data=b"")
        with urllib.request.urlopen(request, timeout=5) as answer:
            return answer.status

    def test_it_is_read_and_says_when(self) -> None:
        told = self.probe.read()
        self.assertEqual(told.at, NOW)
        self.assertLessEqual(set(told.values), set(TRUTH))
        self.assertAlmostEqual(told.values["temp"], 25.0, delta=0.6)

    def test_faults_are_switched_and_seen(self) -> None:
        self.post("fault?fault=stuck&quantity=temp")
        first = self.probe.read().values["temp"]
        self.now = NOW + timedelta(hours=7)
        self.assertEqual(self.probe.read().values["temp"], first)
        self.post("calibrate")
        self.assertNotEqual(self.probe.read().values["temp"], first)
        for fault, said in (("dead", "503"), ("nonsense", "cannot be")):
            self.post(f"fault?fault={fault}")
            with self.subTest(fault=fault), self.assertRaisesRegex(DeviceError, said):
                self.probe.read()
        with self.assertRaises(urllib.error.HTTPError):
            self.post("fault?fault=unheard-of")

    def test_no_such_tank_and_nobody_there(self) -> None:
        with self.assertRaisesRegex(DeviceError, "404"):
            HttpProbe(self.address("reading", "elsewhere")).read()
        with self.assertRaisesRegex(DeviceError, "does not answer"):
            HttpProbe(f"http://127.0.0.1:{open_port()}/v1/x/reading").read()

    def test_damaged_answers(self) -> None:
        good = {"at": NOW.isoformat(), "ph": 7.4}
        self.assertEqual(understand(json.dumps(good)).values, {"ph": 7.4})
        self.assertEqual(understand(json.dumps(good | {"ph": None, "more": 1})).values, {})
        rows = (
            ("", "format asks"), ("[]", "format asks"), ("{}", "format asks"), ('{"at": 5}', "format asks"),
            (json.dumps(good | {"at": "2026-11-24T18:00"}), "which zone"),
            (json.dumps(good | {"ph": "7"}), "no number"),
            (json.dumps(good | {"ph": True}), "no number"), (json.dumps(good | {"ph": 99}), "cannot be"),
            ('{"at": "2026-11-24T18:00+01:00", "ph": NaN}', "no number"),
            ('{"at": "2026-11-24T18:00+01:00", "temp_c": 1e999}', "no number"),
        )  # fmt: skip
        for text, said in rows:
            with self.subTest(text=text), self.assertRaisesRegex(DeviceError, said):
                understand(text)

    def test_addresses(self) -> None:
        self.assertEqual(check_url(" 127.0.0.1:8121/v1/x/reading"), "http://127.0.0.1:8121/v1/x/reading")
        for url in ("", "ftp://x/", "file:///etc/passwd", "http://", "http://a:b@host/", "http://host:port/"):
            with self.subTest(url=url), self.assertRaises(Refused) as told:
                check_url(url)
            self.assertEqual(told.exception.field, "url")


class Mailing(unittest.TestCase):
    def setUp(self) -> None:
        self.inbox, self.port = Inbox(), open_port()
        controller = serve_smtp(self.port, self.inbox)
        self.addCleanup(controller.stop)

    def mailer(self, **more) -> SmtpMailer:
        return SmtpMailer(MailServer("127.0.0.1", more.pop("port", self.port), **more))

    def test_a_mail_arrives_whole_and_is_shown(self) -> None:
        self.mailer().send(MAIL)
        (one,) = self.inbox.listed()
        self.assertEqual((one.sender, one.to, one.subject), (MAIL.sender, MAIL.to, MAIL.subject))
        self.assertEqual(one.body.split(), MAIL.body.split())
        self.assertIn("3 jobs, café", page(self.inbox))
        self.assertIn("Nothing has been sent yet", page(Inbox()))

    def test_what_is_sent_is_shown_as_text(self) -> None:
        self.mailer().send(Mail(MAIL.sender, MAIL.to, "<script>x</script>", "<b>y</b>", "<2@x.invalid>"))
        self.assertNotIn("<script>", page(self.inbox))

    def test_a_refusal_says_so_and_nothing_arrives(self) -> None:
        self.inbox.refusing = True
        with self.assertRaisesRegex(DeviceError, "refused: 451") as told:
            self.mailer().send(MAIL)
        self.assertNotIsInstance(told.exception, Unsure)
        self.assertEqual(len(self.inbox.listed()), 0)

    def test_servers_that_are_not_there_or_speak_otherwise(self) -> None:
        with self.assertRaisesRegex(DeviceError, "cannot be reached"):
            self.mailer(port=open_port()).send(MAIL)
        with self.assertRaisesRegex(DeviceError, "understand each other|refused"):
            self.mailer(security="starttls").send(MAIL)
        with self.assertRaises(DeviceError):
            self.mailer(user="somebody", password="secret").send(MAIL)

    def test_a_connection_lost_behind_the_text_is_unsure(self) -> None:
        with socket.create_server(("127.0.0.1", 0)) as door:
            threading.Thread(target=_half_a_server, args=(door,), daemon=True).start()
            with self.assertRaises(Unsure):
                self.mailer(port=door.getsockname()[1]).send(MAIL)

    def test_the_page_answers_and_its_switch_works(self) -> None:
        port = open_port()
        web = serve_page(port, self.inbox)
        threading.Thread(target=web.serve_forever, daemon=True).start()
        self.addCleanup(web.server_close)
        self.addCleanup(web.shutdown)
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=5) as answer:
            self.assertIn("takes every mail", answer.read().decode())
        request = urllib.request.Request(f"http://127.0.0.1:{port}/switch", method="POST", data=b"")
        with urllib.request.urlopen(request, timeout=5) as answer:
            self.assertIn("refuses every mail", answer.read().decode())

    def test_ports_that_are_taken_are_passed_over(self) -> None:
        with socket.create_server(("127.0.0.1", 0)) as door:
            taken = door.getsockname()[1]
            self.assertNotEqual(free_port(taken, set()), taken)
        first = free_port(taken, set())
        self.assertNotEqual(free_port(first, {first}), first)


def _half_a_server(door: socket.socket) -> None:
    """Speaks SMTP until the text has come, then hangs up without a word."""
    line, _ = door.accept()
    with line, line.makefile("rwb") as talk:
        talk.write(b"220 here\r\n")
        talk.flush()
        while (said := talk.readline().upper()) and not said.startswith(b"DATA"):
            talk.write(b"250 ok\r\n")
            talk.flush()
        talk.write(b"354 go on\r\n")
        talk.flush()
        while talk.readline() not in (b".\r\n", b""):
            pass
