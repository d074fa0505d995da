"""What the `jarbloom` command does. The words it is called with stand in cli.py, which loads this only when there is
something to be done."""

from __future__ import annotations

import errno
import getpass
import logging
import shutil
import signal
import socket
import sys
from contextlib import closing
from datetime import datetime
from logging.handlers import RotatingFileHandler
from pathlib import Path
from zoneinfo import ZoneInfo

import platformdirs

from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.journal.kinds.damaged import Damaged
from jarbloom.deeds import exchange, look
from jarbloom.deeds.demo_truth import connect_stand_ins, truth_of
from jarbloom.deeds.desk import Desk, reference, with_own
from jarbloom.deeds.house_network import has_passphrase, set_passphrase
from jarbloom.deeds.make_demo import make_demo
from jarbloom.devices import stand_ins
from jarbloom.errors import JarBloomError
from jarbloom.formats import advice_json
from jarbloom.loading import loading
from jarbloom.settings import LOOPBACK_HOST, Network, Settings, local_zone
from jarbloom.store import backups, copies, db, journal, preferences, tanks
from jarbloom.store.folder import held, owner_of
from jarbloom.store.restore import rescue as save_what_is_readable
from jarbloom.store.restore import restore as put_back

HOUSE = "house"  # instead of a tank: all of them
MEMBERS = Forecasting().members
TRIED_PORTS = 40
LOG_NAME, LOG_BYTES, LOG_FILES = "jarbloom.log", 1_000_000, 4
GRACE_S = 3  # so long a page that is being made may still take when the server is told to stop


def data_folder(given: Path | None) -> Path:
    return given or Path(platformdirs.user_data_dir("jarbloom", appauthor=False))


def listen(wanted: int, host: str = LOOPBACK_HOST) -> socket.socket:
    """A socket that listens on the wanted port, or on the next free one."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    for port in range(wanted, wanted + TRIED_PORTS):
        found = socket.socket(family)
        found.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            found.bind((host, port))
            found.listen(128)
        except OSError as problem:
            found.close()
            if problem.errno != errno.EADDRINUSE:
                raise JarBloomError(f"{host} cannot be listened on: {problem.strerror}.") from None
            continue
        return found
    raise JarBloomError(f"No port between {wanted} and {wanted + TRIED_PORTS - 1} is free.")


def _desk(folder: Path, now: datetime | None = None, members: int = MEMBERS, owner: str = "own") -> Desk:
    conn = db.connect(db.open_store(folder, owner))
    chosen = preferences.load(conn, local_zone())
    moment = Settings(folder, now).clock(ZoneInfo(chosen.zone))
    return Desk(conn, moment, chosen, with_own(reference(), conn), Forecasting(members=members))


def _log_to(folder: Path) -> None:
    """Warnings and failures, on the screen and in a file beside the data that is turned over before it grows large."""
    file = folder / LOG_NAME
    folder.mkdir(parents=True, exist_ok=True, mode=db.PRIVATE_FOLDER)
    db.make_private(file)
    kept = RotatingFileHandler(file, maxBytes=LOG_BYTES, backupCount=LOG_FILES, encoding="utf-8")
    kept.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s %(message)s"))
    shown = logging.StreamHandler()
    shown.setFormatter(logging.Formatter("%(levelname)s %(message)s"))
    logging.basicConfig(level=logging.WARNING, handlers=[shown, kept])
    logging.raiseExceptions = False  # a log that cannot be written, on a full disk say, is no fault of a page


def _serve(settings: Settings, port: int, pem: tuple[Path, Path] | None = None) -> None:
    _log_to(settings.data)
    with loading():  # only a server needs these; the other commands start a good deal sooner without them
        import uvicorn

        from jarbloom.web.app import create_app

        made = create_app(settings)
    network = settings.network
    config = uvicorn.Config(
        made, log_level="warning", timeout_graceful_shutdown=GRACE_S,
        proxy_headers=bool(network and network.proxy), forwarded_allow_ips=network.proxy if network else None,
        ssl_certfile=pem[0] if pem else None, ssl_keyfile=pem[1] if pem else None,
    )  # fmt: skip
    server = uvicorn.Server(config)
    # Listening before it is said: whoever opens the address at once is answered as soon as the program is up.
    with listen(port, network.host if network else LOOPBACK_HOST) as door:
        # A stop that comes while the server starts up must not be lost in it: it is remembered, and met once it runs.
        for asked in (signal.SIGINT, signal.SIGTERM):
            signal.signal(asked, lambda *_: setattr(server, "should_exit", True))
        host = min(network.names, key=lambda n: (n != network.host, n)) if network else LOOPBACK_HOST
        shown = f"[{host}]" if ":" in host else host
        address = f"{'https' if pem else 'http'}://{shown}:{door.getsockname()[1]}/"
        print(f"Jar Bloom is at {address}  (data in {settings.data}; Ctrl-C stops)", flush=True)
        if pem:
            from jarbloom.devices.certificate import fingerprint

            print(
                f"The certificate’s fingerprint (SHA-256), to compare in the browser:\n{fingerprint(pem[0])}",
                flush=True,
            )
        server.run(sockets=[door])


def serve(
    data: Path | None, port: int, now: datetime | None, host: str | None, name: list[str] | None, cert: Path | None,
    key: Path | None, proxy: str,
) -> None:  # fmt: skip
    """Start with your own data."""
    folder = data_folder(data)
    if owner_of(folder) == "demo":
        raise JarBloomError(
            f"{folder} holds made-up tanks, which the next demo makes anew: keep your own elsewhere (--data FOLDER)."
        )
    network = _network(folder, host, name or [], proxy)
    with held(folder, "jarbloom serve"):
        _serve(
            Settings(folder, now, rounds=True, at_once=True, network=network),
            port,
            _certificate(folder, network, cert, key),
        )


def _network(folder: Path, host: str | None, names: list[str], proxy: str) -> Network | None:
    """Raises JarBloomError without a passphrase: nothing is opened that anybody may enter."""
    if host is None:
        if names or proxy:
            raise JarBloomError("--name and --proxy belong to --host ADDRESS.")
        return None
    if not has_passphrase(folder):
        where = f" --data {folder}" if folder != data_folder(None) else ""
        raise JarBloomError(f"The house network needs a passphrase first: jarbloom passphrase{where}")
    every = host in ("0.0.0.0", "::")
    if every and not names:
        raise JarBloomError("With every address of the machine say by which name it is reached: --name 192.168.1.20")
    return Network(host, frozenset(names if every else [host, *names]), proxy)


def _certificate(
    folder: Path, network: Network | None, cert: Path | None, key: Path | None
) -> tuple[Path, Path] | None:
    if (cert is None) != (key is None):
        raise JarBloomError("A certificate and its key go together: --cert FILE --key FILE.")
    if cert is not None and key is not None:
        for file in (cert, key):
            if not file.is_file():
                raise JarBloomError(f"{file} is not there.")
        return cert, key
    if network is None or network.proxy:
        return None
    from jarbloom.devices.certificate import house_certificate

    return house_certificate(folder, network.names)


def _asked_twice() -> str:
    typed = getpass.getpass("Passphrase: ")
    if getpass.getpass("The same again: ") != typed:
        raise JarBloomError("These two differ; nothing was kept.")
    return typed


def passphrase(data: Path | None = None, sitter: bool = False, stdin: bool = False) -> None:
    """Set the passphrase of the house network; --sitter sets a second one, for who may only read."""
    folder = data_folder(data)
    db.open_store(folder)
    typed = sys.stdin.readline().rstrip("\n") if stdin else _asked_twice()
    set_passphrase(folder, typed, "sitter" if sitter else "keeper")
    print("Kept, as a hash. Who is signed in stays so; the page Devices signs everybody out.")


def demo(data: Path | None, port: int, now: datetime | None, keep: bool, members: int | None) -> None:
    """Start with made-up tanks, made anew each time (--keep goes on with the last ones)."""
    folder = data or _demo_folder()
    with held(folder, "jarbloom demo"):
        _demo(folder, port, now, keep, members or MEMBERS)


def _demo_folder() -> Path:
    """The platform's folder for demos; one that was not made by a demo is left alone, and the next taken."""
    base, n = data_folder(None) / "demo", 1
    folder = base
    while owner_of(folder) == "own":
        n += 1
        folder = base.with_name(f"demo-{n}")
    return folder


def _demo(folder: Path, port: int, now: datetime | None, keep: bool, members: int) -> None:
    if owner_of(folder) == "own":
        raise JarBloomError(
            f"{folder} holds tanks that no demo has made: nothing was touched. Give an empty folder, "
            "for example: jarbloom demo --data demo-data (or make demo DATA=demo-data)."
        )
    if not keep:
        for name in (db.FILE_NAME, f"{db.FILE_NAME}-wal", f"{db.FILE_NAME}-shm"):
            (folder / name).unlink(missing_ok=True)
    with stand_ins.beside(folder, now) as beside:  # they start up while the demo is made
        desk = _desk(folder, now, members, owner="demo")
        try:
            if not tanks.all_tanks(desk.conn):
                make_demo(desk)
            look.see_bench(desk)  # the first page is then as quick as the others
            connect_stand_ins(desk, beside.probe_port, beside.smtp_port)
        finally:
            desk.conn.close()
        beside.wait()
        print(f"Stand-ins: a probe on port {beside.probe_port}; mail that was sent: {beside.mail_page}", flush=True)
        _serve(
            Settings(
                folder, now, Forecasting(members), demo=True, rounds=True, at_once=True, mail_page=beside.mail_page
            ),
            port,
        )


def stand_in_probe(data: Path | None, port: int | None, now: datetime | None) -> None:
    """A networked probe that measures the demo's tanks as they truly are, with drift, noise and drop-outs."""
    folder = data or data_folder(None) / "demo"

    def truth(slug: str, at: datetime) -> dict[str, float] | None:
        desk = _desk(folder, at)
        try:
            return truth_of(desk, slug)
        except JarBloomError:
            return None
        finally:
            desk.conn.close()

    zone = ZoneInfo(local_zone())
    stand_ins.run_probe(port or stand_ins.PROBE_PORT, truth, lambda: Settings(folder, now).clock(zone))


def stand_in_mail(port: int | None, page: int | None) -> None:
    """A mail server that takes everything, delivers nothing, and shows on a page what was sent."""
    stand_ins.run_mail(port or stand_ins.SMTP_PORT, page or stand_ins.MAIL_PAGE_PORT)


def _as_of(text: str | None) -> datetime | None:
    if text is None:
        return None
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise JarBloomError(f"“{text}” is no date: use 2026-11-24 or 2026-11-24T18:00.") from None
    return at.replace(hour=23, minute=59) if len(text) == 10 else at


def forecast(bundle: Path, as_of: str | None = None, what_if: Path | None = None, json: bool = False) -> None:
    """Forecast a bundle (folder or zip): daily quantiles, readiness, batches, and what-ifs beside them."""
    known = reference()
    if what_if is not None:
        f, futures = exchange.what_if_bundle(bundle, what_if, known, _as_of(as_of), local_zone())
    else:
        f, futures = exchange.advise_bundle(bundle, known, _as_of(as_of), local_zone()).situation.forecast, ()
    if json:
        print(advice_json.to_text(advice_json.forecast(f, futures)))
        return
    print(f"{f.as_of:%a %-d %b %Y %H:%M}, from {f.n_readings} readings")
    print(f"{'day':<12}{'sure':>8}{'likely':>8}{'at best':>9}   mg N a day")
    for k in range(f.today, len(f.days), 7):
        print(
            f"{f.days[k]:%a %-d %b}".ljust(12)
            + "".join(f"{f.band('capacity', q, k):>{w}.1f}" for q, w in ((0.1, 8), (0.5, 8), (0.9, 9)))
        )
    for future in futures:
        r = future.readiness
        ready = f"ready about {r.p50 or 'later'} ({r.p10 or 'later'} to {r.p90 or 'later'})"
        print(f"{future.name}: {ready}, nitrite peaks at about {future.no2_peak_p50:.2f} mg/L in 14 days")


def advise(bundle: Path, as_of: str | None = None, json: bool = False) -> None:
    """What the tank page says, for a bundle."""
    seen = exchange.advise_bundle(bundle, reference(), _as_of(as_of), local_zone())
    if json:
        print(advice_json.to_text(advice_json.advice(seen)))
        return
    print(seen.verdict.sentence)
    for reason in seen.verdict.reasons:
        print(f"  - {reason}")
    for job in seen.jobs:
        print(f"  [ ] {job.title}: {job.why} ({job.due_text})")


def export_(tank: str, to: Path, data: Path | None = None) -> None:
    """Write a tank (by its address, as in sunroom-112) as a bundle: a folder, or a .zip; "house" is all of them."""
    desk = _desk(data_folder(data))
    if tank == HOUSE:
        exchange.write_house(desk, to)
    else:
        exchange.export(desk, tank, to)
    print(f"Written to {to}.")


def import_(bundle: Path, data: Path | None = None) -> None:
    """Bring a bundle in as a new tank, or a whole house."""
    for kept in exchange.bring_in_any(_desk(data_folder(data)), bundle):
        print(f"{kept.name} is in, at /tanks/{kept.slug}.")


def backup(to: Path | None = None, data: Path | None = None) -> None:
    """Copy the database, as it is and of whatever version, while the program may run."""
    folder = data_folder(data)
    conn, _ = db.read_store(folder)
    target = to or folder / backups.FOLDER / f"jarbloom-{datetime.now():%Y%m%d-%H%M%S}.db"
    with closing(conn):
        copies.backup(conn, target)
    print(
        f"Copied to {target} ({target.stat().st_size // 1024} kB; "
        f"{shutil.disk_usage(target.parent).free // 2**20} MB free)."
    )


def check(data: Path | None = None) -> None:
    """Check the database and read every entry, changing nothing; exits with 1 when something is wrong."""
    folder = data_folder(data)
    conn, version = db.read_store(folder)
    with closing(conn):
        db.refuse_newer(version)
        found = db.check(conn)
        told = ""
        if version != db.newest_version():
            told = f"It is of version {version}; a start of the program brings it to {db.newest_version()}. "
        elif not found:
            count = 0
            for kept in tanks.all_tanks(conn, shelved=True):
                whole = journal.entries(conn, kept.id, live_only=False)
                count += len(whole)
                found += [f"{kept.name}, entry {e.id}: {e.body.problem}" for e in whole if isinstance(e.body, Damaged)]
            told = f"{count} entries read, "
    for line in found:
        print(line)
    print(f"{told}{len(found)} problem{'s' if len(found) != 1 else ''}.")
    if found:
        last = backups.copies_in(folder / backups.FOLDER)[:1]
        whole_copy = f"The last whole copy is {last[0].file}. " if last else ""
        print(f"{whole_copy}What can still be read goes into a new file with: jarbloom rescue FILE")
        raise SystemExit(1)


def restore(file: Path, data: Path | None = None) -> None:
    """Put a backup in the place of the database. The present one is put aside, not deleted."""
    folder = data_folder(data)
    with held(folder, "jarbloom restore"):
        there, aside = put_back(folder, file, datetime.now())
    print(f"{file} is in place: {there.words}.")
    if aside is not None:
        print(f"What was there before lies in {aside}.")


def rescue(to: Path, data: Path | None = None) -> None:
    """Write what can still be read of a damaged database into a new file, which `restore` then puts in place."""
    saved = save_what_is_readable(data_folder(data), to)
    for table in saved:
        if table.gaps:
            print(f"{table.table}: {table.rows} rows, {table.gaps} places could not be read")
    lost = sum(table.gaps for table in saved)
    print(f"{sum(table.rows for table in saved)} rows written to {to}, {lost or 'no'} places could not be read.")


def schema() -> None:
    """Print the JSON Schema of the open formats (docs/bundle.schema.json)."""
    from jarbloom.formats.schema import schema as made

    print(advice_json.to_text(made()))


def findings() -> None:
    """Print what can be found about a tank, from the table (docs/advice.md)."""
    from jarbloom.formats.findings_md import advice_page

    known = reference()
    print(advice_page(known.findings, known.acts), end="")


def causes() -> None:
    """Print what can go wrong and how it is told apart, from the tables (docs/upsets.md)."""
    from jarbloom.formats.causes_md import upsets_page

    known = reference()
    print(upsets_page(known.causes, known.courses, known.acts, known.words.says), end="")
