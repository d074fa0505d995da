"""Every address, built in one place."""

from __future__ import annotations

import hashlib
from functools import cache
from importlib.resources import files


def ready(slug: str) -> str:
    return f"/ready?tank={slug}"


def bench() -> str:
    return "/"


def data(what: str = "") -> str:
    return f"/data/{what}" if what else "/data"


def api_example() -> str:
    return "http://127.0.0.1:8112/api/v1/tanks/sunroom-112/entries"


def sign_in() -> str:
    return "/sign-in"


def sign_out() -> str:
    return "/sign-out"


def pair(code: str) -> str:
    return f"/pair/{code}"


def devices(what: str = "") -> str:
    return f"/devices/{what}" if what else "/devices"


def begin(slug: str, step: int) -> str:
    """The second and third step of a new tank."""
    return f"/tanks/{slug}/begin/{step}"


def start(way: str) -> str:
    return f"/start/{way}"


def tank(slug: str) -> str:
    return f"/tanks/{slug}"


def settings(slug: str) -> str:
    return f"/tanks/{slug}/settings"


def settings_undo(slug: str) -> str:
    return f"/tanks/{slug}/settings/undo"


def shelve(slug: str) -> str:
    return f"/tanks/{slug}/shelve"


def unshelve(tank_id: int) -> str:
    return f"/shelf/{tank_id}/restore"


def photos(slug: str) -> str:
    return f"/tanks/{slug}/photos"


def photo(slug: str, entry_id: int) -> str:
    return f"/tanks/{slug}/photos/{entry_id}.jpg"


def old_notes(slug: str, what: str = "") -> str:
    return f"/tanks/{slug}/old-notes" + (f"/{what}" if what else "")


def away(slug: str, what: str = "") -> str:
    return f"/tanks/{slug}/away" + (f"/{what}" if what else "")


def helper(secret: str, what: str = "") -> str:
    """The page of who looks after a tank, by its secret."""
    return f"/away/{secret}" + (f"/{what}" if what else "")


def report(slug: str, what: str = "") -> str:
    return f"/tanks/{slug}/report" + (f".{what}" if what else "")


def stores() -> str:
    return "/stores"


def store(supply_id: int, what: str = "") -> str:
    return f"/stores/{supply_id}" + (f"/{what}" if what else "")


def life(slug: str, species: str) -> str:
    """The story of a kind in a tank."""
    return f"/tanks/{slug}/animals/book/of/{species}"


def chores(slug: str) -> str:
    return f"/tanks/{slug}/chores"


def history(slug: str) -> str:
    return f"/tanks/{slug}/history"


def log_book(slug: str) -> str:
    return f"/tanks/{slug}/log"


def log_line(slug: str) -> str:
    return f"/tanks/{slug}/log/line"


def log_lines(slug: str) -> str:
    return f"/tanks/{slug}/log/lines"


def log_quick(slug: str) -> str:
    return f"/tanks/{slug}/log/quick"


def log_read(slug: str) -> str:
    return f"/tanks/{slug}/log/read"


def log_new(slug: str, kind: str) -> str:
    return f"/tanks/{slug}/log/new/{kind}"


def entry(slug: str, entry_id: int) -> str:
    return f"/tanks/{slug}/log/{entry_id}"


def void(slug: str, entry_id: int) -> str:
    return f"/tanks/{slug}/log/{entry_id}/void"


def undo(slug: str, act_id: int) -> str:
    return f"/tanks/{slug}/acts/{act_id}/undo"


def stocking(slug: str, changed: int = 0) -> str:
    """`changed`: the change of the plan to offer the undo of."""
    return f"/tanks/{slug}/stocking" + (f"?changed={changed}" if changed else "")


def batch_new(slug: str) -> str:
    return f"/tanks/{slug}/stocking/new"


def batch(slug: str, batch_id: int, what: str) -> str:
    return f"/tanks/{slug}/stocking/{batch_id}/{what}"


def arrival(slug: str, run_id: int = 0, what: str = "") -> str:
    """An arrival day: its form, or a run; `what`: a step to tick, way, untick or end."""
    return f"/tanks/{slug}/arrival/{run_id}/{what}".rstrip("/") if run_id else f"/tanks/{slug}/arrival"


def plan(slug: str, what: str) -> str:
    """The planner: board (how batches stand), ahead (its own days), days, anew, free-days."""
    return f"/tanks/{slug}/stocking/{what}"


def undo_plan(slug: str, change_id: int) -> str:
    return f"/tanks/{slug}/stocking/undo/{change_id}"


def animals(slug: str, what: str = "") -> str:
    """The finder; `what`: together, plan, or found (its answers as a fragment)."""
    return f"/tanks/{slug}/animals/{what}".rstrip("/")


def upset(slug: str) -> str:
    return f"/tanks/{slug}/upset"


def outlook(slug: str) -> str:
    return f"/tanks/{slug}/outlook"


def outlook_file(slug: str, name: str) -> str:
    return f"/tanks/{slug}/outlook/{name}"


def chart(slug: str) -> str:
    return f"/tanks/{slug}/chart"


def setup(slug: str, part: str) -> str:
    return f"/tanks/{slug}/setup/{part}"


def setup_look(slug: str, part: str) -> str:
    """The fragment that answers while a form of this part is typed in."""
    return f"/tanks/{slug}/setup/{part}/look"


def draw_new() -> str:
    """The same for a tank that is not set up yet."""
    return "/start/draw"


def fill_step(slug: str, step: str) -> str:
    return f"/tanks/{slug}/setup/fill/{step}"


def check(slug: str, key: str) -> str:
    return f"/tanks/{slug}/setup/check/{key}"


def use_school(slug: str) -> str:
    return f"/tanks/{slug}/setup/school/use"


def job(slug: str, key: str, how: str) -> str:
    return f"/tanks/{slug}/jobs/{key}/{how}"


def species(key: str = "", how: str = "") -> str:
    """The keeper's own species: the list, one of them (or new, csv, own.csv), and what is done with it."""
    return f"/species/{key}/{how}".rstrip("/")


def waters() -> str:
    return "/waters"


def water(water_id: int) -> str:
    return f"/waters/{water_id}"


def instrument(thing_id: int, what: str = "") -> str:
    return f"/instruments/{thing_id}/{what}".rstrip("/")


def house_thing(thing_id: int, what: str) -> str:
    return f"/house/{thing_id}/{what}"


def schedule(what: str = "") -> str:
    return f"/schedule/{what}".rstrip("/")


def calendar_feed(secret: str) -> str:
    return f"/calendar/{secret}.ics"


def terms() -> str:
    return "/words"


def preferences() -> str:
    return "/preferences"


def hint(page: str) -> str:
    return f"/hints/{page}"


def theme() -> str:
    return "/preferences/theme"


@cache
def _stamp(path: str) -> str:
    return hashlib.sha256(files("jarbloom.web").joinpath("static", path).read_bytes()).hexdigest()[:10]


FONTS = (
    "piazzolla-latin-opsz-normal.woff2",
    "jb-display-latin-italic-380.woff2",
    "reddit-sans-condensed-latin-wght-normal.woff2",
)


def font(name: str) -> str:
    """As tokens.css names it: loaded at once, so that the text does not jump when it comes."""
    return f"/static/fonts/{name}"


def static(path: str) -> str:
    """With a stamp of the content, so that a new version is never hidden by an old copy."""
    return f"/static/{path}?v={_stamp(path)}"
