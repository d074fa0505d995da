"""The `jarbloom` command: what it is called with. What is done stands in commands.py, loaded only then, so that
help is there at once."""

from __future__ import annotations

import sys
from datetime import datetime
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

from jarbloom import __version__
from jarbloom.errors import JarBloomError
from jarbloom.loading import loading
from jarbloom.settings import HELP, PORT

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    help="Jar Bloom: forecast a new aquarium's bloom.",
)

Data = Annotated[Path | None, typer.Option("--data", help=HELP["data"] + "; the platform's data folder when not given")]
Now = Annotated[datetime | None, typer.Option("--now", help=HELP["now"])]
AsOf = Annotated[str | None, typer.Option("--as-of", help="date or moment; nothing dated later is read")]
WhatIfs = Annotated[Path | None, typer.Option("--what-if", help="JSON file of futures to compare, see docs/formats.md")]
AsJson = Annotated[bool, typer.Option("--json", help="print JSON")]
Host = Annotated[str | None, typer.Option(help="open to the house network on this address; a passphrase must be set")]
Names = Annotated[list[str] | None, typer.Option("--name", help="a host name that is answered to, may stand again")]
Cert = Annotated[Path | None, typer.Option(help="certificate (PEM); without one the program makes its own")]
Key = Annotated[Path | None, typer.Option(help="its key (PEM)")]
Proxy = Annotated[str, typer.Option(help="address of a reverse proxy that is trusted; it has to encrypt")]
Members = Annotated[int | None, typer.Option(help="ensemble members of a forecast")]


def _do(command: str, **given: Any) -> None:
    with loading():
        from jarbloom import commands
    getattr(commands, command)(**given)


@app.command()
def serve(
    data: Data = None, port: int = PORT, now: Now = None, host: Host = None, name: Names = None, cert: Cert = None,
    key: Key = None, proxy: Proxy = "",
) -> None:  # fmt: skip
    """Start with your own data."""
    _do("serve", data=data, port=port, now=now, host=host, name=name, cert=cert, key=key, proxy=proxy)


@app.command()
def passphrase(data: Data = None, sitter: bool = False, stdin: bool = False) -> None:
    """Set the passphrase of the house network; --sitter sets a second one, for who may only read."""
    _do("passphrase", data=data, sitter=sitter, stdin=stdin)


@app.command()
def demo(data: Data = None, port: int = PORT, now: Now = None, keep: bool = False, members: Members = None) -> None:
    """Start with made-up tanks, made anew each time (--keep goes on with the last ones)."""
    _do("demo", data=data, port=port, now=now, keep=keep, members=members)


stand_in = typer.Typer(
    no_args_is_help=True, rich_markup_mode=None, help="Made-up devices on loopback, to try the program with."
)
app.add_typer(stand_in, name="stand-in")


@stand_in.command("probe")
def stand_in_probe(data: Data = None, port: int | None = None, now: Now = None) -> None:
    """A networked probe that measures the demo's tanks as they truly are, with drift, noise and drop-outs."""
    _do("stand_in_probe", data=data, port=port, now=now)


@stand_in.command("mail")
def stand_in_mail(port: int | None = None, page: int | None = None) -> None:
    """A mail server that takes everything, delivers nothing, and shows on a page what was sent."""
    _do("stand_in_mail", port=port, page=page)


@app.command()
def forecast(bundle: Path, as_of: AsOf = None, what_if: WhatIfs = None, json: AsJson = False) -> None:
    """Forecast a bundle (folder or zip): daily quantiles, readiness, batches, and what-ifs beside them."""
    _do("forecast", bundle=bundle, as_of=as_of, what_if=what_if, json=json)


@app.command()
def advise(bundle: Path, as_of: AsOf = None, json: AsJson = False) -> None:
    """What the tank page says, for a bundle."""
    _do("advise", bundle=bundle, as_of=as_of, json=json)


@app.command("export")
def export_(tank: str, to: Path, data: Data = None) -> None:
    """Write a tank (by its address, as in sunroom-112) as a bundle: a folder, or a .zip; "house" is all of them."""
    _do("export_", tank=tank, to=to, data=data)


@app.command("import")
def import_(bundle: Path, data: Data = None) -> None:
    """Bring a bundle in as a new tank, or a whole house."""
    _do("import_", bundle=bundle, data=data)


@app.command()
def backup(to: Annotated[Path | None, typer.Argument(help="file to write")] = None, data: Data = None) -> None:
    """Copy the database, as it is and of whatever version, while the program may run."""
    _do("backup", to=to, data=data)


@app.command()
def check(data: Data = None) -> None:
    """Check the database and read every entry, changing nothing; exits with 1 when something is wrong."""
    _do("check", data=data)


@app.command()
def restore(file: Path, data: Data = None) -> None:
    """Put a backup in the place of the database. The present one is put aside, not deleted."""
    _do("restore", file=file, data=data)


@app.command()
def rescue(to: Path, data: Data = None) -> None:
    """Write what can still be read of a damaged database into a new file, which `restore` then puts in place."""
    _do("rescue", to=to, data=data)


@app.command()
def schema() -> None:
    """Print the JSON Schema of the open formats (docs/bundle.schema.json)."""
    _do("schema")


@app.command()
def findings() -> None:
    """Print what can be found about a tank, from the table (docs/advice.md)."""
    _do("findings")


@app.command()
def causes() -> None:
    """Print what can go wrong and how it is told apart, from the tables (docs/upsets.md)."""
    _do("causes")


@app.command()
def version() -> None:
    """Print the version."""
    print(__version__)


def run(arguments: list[str] | None = None) -> int:
    """Run the command; returns its exit code: 0, 1 for a failed check, 2 for a mistake, told in a line."""
    try:
        app(arguments)
    except JarBloomError as problem:
        print(problem.sentence, file=sys.stderr)
        return 2
    except SystemExit as end:  # how the command line library says that it is done, or that a word was wrong
        return end.code if isinstance(end.code, int) else 0
    return 0


def main() -> NoReturn:
    sys.exit(run())
