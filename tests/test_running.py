"""Running it for real: a built wheel works outside the checkout, what lies in contrib names what there is, and a start
on the house network asks for a passphrase."""

import os
import re
import shlex
import ssl
import subprocess
import sys
import tempfile
import unittest
import urllib.request
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

from jarbloom.cli import app
from jarbloom.devices.certificate import fingerprint, house_certificate
from tests.test_cli import jarbloom

ROOT = Path(__file__).parents[1]


def options_of(command: str) -> set[str]:
    import typer

    found = typer.main.get_command(app).commands[command]  # type: ignore[attr-defined]
    return {o for p in found.params for o in (*p.opts, *p.secondary_opts)}


class Contrib(unittest.TestCase):
    def test_commands_and_paths_exist(self) -> None:
        unit = (ROOT / "contrib" / "jarbloom.service").read_text("utf-8")
        calls = [shlex.split(line)[1:] for line in re.findall(r"ExecStart=(.+)", unit)]
        container = (ROOT / "contrib" / "Containerfile").read_text("utf-8")
        calls += [shlex.split(rest) for rest in re.findall(r"jarbloom-data:/data jarbloom (.+)", container)]
        calls += [re.findall(r'"([^"]+)"', told) for told in re.findall(r"CMD (.+)", container)]
        self.assertGreaterEqual(len(calls), 5)
        for command, *rest in calls:
            with self.subTest(command=command, rest=rest):
                self.assertLessEqual({word for word in rest if word.startswith("--")}, options_of(command))
        for line in re.findall(r"^COPY (.+) \S+$", container, re.M):
            for path in line.split():
                self.assertTrue((ROOT / path).exists(), path)

    def test_every_command_of_the_guide_is_one(self) -> None:
        guide = (ROOT / "docs" / "running.md").read_text("utf-8")
        named = set(re.findall(r"jarbloom ([a-z]+)\b", guide)) - {"user"}
        import typer

        self.assertLessEqual(named, set(typer.main.get_command(app).commands))  # type: ignore[attr-defined]


class Wheel(unittest.TestCase):
    def test_it_works_outside_the_checkout(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            built = subprocess.run(
                [sys.executable, "-m", "pip", "wheel", str(ROOT), "--no-deps", "--no-build-isolation", "--quiet",
                 "--disable-pip-version-check", "-w", folder],
                capture_output=True, text=True, cwd=folder,
            )  # fmt: skip
            self.assertEqual(built.returncode, 0, built.stderr)
            (wheel,) = Path(folder).glob("*.whl")
            zipfile.ZipFile(wheel).extractall(f"{folder}/there")
            script = (
                "import sys, jarbloom; from pathlib import Path\n"
                "sys.modules['aiosmtpd'] = None; import jarbloom.commands\n"  # the mail stand-in's own, an extra
                "from starlette.testclient import TestClient\n"
                "from jarbloom.settings import Settings; from jarbloom.web.app import create_app\n"
                "assert Path(jarbloom.__file__).is_relative_to(sys.argv[1]), jarbloom.__file__\n"
                "with TestClient(create_app(Settings(Path(sys.argv[2])))) as http:\n"
                "    assert http.get('/').status_code == http.get('/static/tokens.css').status_code == 200\n"
                "late = {'numba', 'scipy', 'openpyxl'} & set(sys.modules); assert not late, late\n"
            )
            told = subprocess.run(
                [sys.executable, "-c", script, f"{folder}/there", f"{folder}/data"], cwd=folder, capture_output=True,
                text=True, env={**os.environ, "PYTHONPATH": f"{folder}/there"},
            )  # fmt: skip
            self.assertEqual(told.returncode, 0, told.stderr)


class OnTheNetwork(unittest.TestCase):
    def test_without_a_passphrase_it_does_not_start(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            told = jarbloom("serve", "--host", "127.0.0.2", "--data", folder)
            self.assertEqual(told.returncode, 2)
            self.assertIn("jarbloom passphrase", told.stderr)
            self.assertEqual(jarbloom("serve", "--name", "x", "--data", folder).returncode, 2)

    def test_with_one_it_answers_encrypted_under_the_fingerprint_it_tells(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            here = [sys.executable, "-m", "jarbloom"]
            kept = subprocess.run([*here, "passphrase", "--stdin", "--data", folder], input="three snails on a leaf\n",
                                  capture_output=True, text=True)  # fmt: skip
            self.assertEqual(kept.returncode, 0, kept.stderr)
            server = subprocess.Popen([*here, "serve", "--host", "127.0.0.2", "--port", "8941", "--data", folder],
                                      stdout=subprocess.PIPE, text=True)  # fmt: skip
            try:
                assert server.stdout is not None
                address = re.search(r"https://\S+/", server.stdout.readline())
                assert address is not None
                server.stdout.readline()
                self.assertEqual(server.stdout.readline().strip(), fingerprint(Path(folder) / "house-certificate.pem"))
                trusted = ssl.create_default_context(cafile=f"{folder}/house-certificate.pem")
                with urllib.request.urlopen(f"{address[0]}healthz", context=trusted, timeout=20) as told:
                    self.assertEqual(told.read(), b"ok")
                with urllib.request.urlopen(address[0], context=trusted, timeout=20) as told:
                    self.assertIn("/sign-in", told.geturl())
            finally:
                server.terminate()
                server.wait(20)
                if server.stdout:
                    server.stdout.close()

    def test_a_certificate_stays_while_it_holds_and_is_made_anew_for_a_new_name(self) -> None:
        with tempfile.TemporaryDirectory() as holder:
            folder = Path(holder)
            first = fingerprint(house_certificate(folder, ["192.168.1.20"])[0])
            self.assertEqual(fingerprint(house_certificate(folder, ["192.168.1.20"])[0]), first)
            self.assertNotEqual(fingerprint(house_certificate(folder, ["192.168.1.20", "tanks.home"])[0]), first)
            late = datetime.now(UTC) + timedelta(days=810)
            again = fingerprint(house_certificate(folder, ["192.168.1.20"])[0])
            self.assertNotEqual(fingerprint(house_certificate(folder, ["192.168.1.20"], late)[0]), again)
            self.assertEqual((folder / "house-key.pem").stat().st_mode & 0o777, 0o600)


if __name__ == "__main__":
    unittest.main()
