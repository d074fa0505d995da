"""Makes the pictures of docs/screenshots from the demo, with the clock fixed."""

from __future__ import annotations

from pathlib import Path

from tests.browser.base import DESK, PHONE, Served, browser
from tests.make import NOW, ZONE, demo_folder

from jarbloom.core.animals.acclimatise import Bag
from jarbloom.deeds import arrive
from jarbloom.deeds.desk import Desk
from jarbloom.settings import Settings
from jarbloom.store import batches, preferences, tanks
from jarbloom.store.db import FILE_NAME, connect
from jarbloom.web import urls

TO = Path(__file__).parent.parent / "docs" / "screenshots"
VIEWS = (
    ("start", "/tanks/desk-28/begin/2", DESK, "light"),
    ("which-tank", "/start/animals?q=8+harlequin+rasboras,+6+kuhli+loaches,+2+honey+gouramis", DESK, "light"),
    ("bench", "/", DESK, "light"), ("tank", "/tanks/sunroom-112", DESK, "light"),
    ("tank-phone", "/tanks/sunroom-112", PHONE, "light"),
    ("log", "/tanks/alcove-180/log", DESK, "light"), ("history", "/tanks/alcove-180/history", DESK, "light"),
    ("photos", "/tanks/alcove-180/photos", DESK, "light"), ("batches", "/tanks/sunroom-112/stocking", DESK, "light"),
    ("upset", "/tanks/hall-96/upset", DESK, "light"),
    ("trouble-phone", "/start/trouble", PHONE, "light"),
    ("outlook", "/tanks/sunroom-112/outlook", DESK, "light"),
    ("book", "/tanks/hall-96/animals/book", DESK, "light"), ("arrival-phone", "", PHONE, "light"),
    ("animal", "/tanks/sunroom-112/animals?q=peaceful+bottom+fish", DESK, "light"),
    ("together", "/tanks/sunroom-112/animals/together?with=angelfish&with=guppy&with=betta&with=cherry_shrimp"
     "&with=kribensis&with=serpae_tetra&with=honey_gourami&with=otocinclus", DESK, "light"),
    ("volume", "/tanks/landing-60/setup/volume", DESK, "light"),
    ("styles-evening", "/tanks/sunroom-112/animals/styles?style=community&bare=on", DESK, "evening"),
    ("fill-phone", "/tanks/desk-28/setup/fill", PHONE, "light"),
)  # fmt: skip


def _arrival_day(folder: Path) -> str:
    """The address of an arrival day that has just begun: eight rasboras after a long way."""
    conn = connect(folder / FILE_NAME)
    desk = Desk(conn, NOW, preferences.load(conn, ZONE))
    slug = "sunroom-112"
    batch = next(b for b in batches.batches(conn, tanks.tank(conn, slug).id, ()) if b.name == "Batch two")
    run = arrive.begin(desk, slug, batch.id, Bag(1.5, 21.0, 6.4, None, 0.5, 20.0), "display", {})
    for step in ("lights", "float"):
        arrive.tick(desk, slug, run, step, {})
    conn.close()
    return urls.arrival(slug, run)


def main() -> None:
    TO.mkdir(parents=True, exist_ok=True)
    with demo_folder() as folder:
        served = Served(Settings(folder, NOW, demo=True))
        for name, path, size, theme in VIEWS:
            context = browser().new_context(
                viewport=size,
                base_url=served.address,
                locale="en-GB",
                timezone_id="Europe/Berlin",
                reduced_motion="reduce",
            )
            page = context.new_page()
            page.goto("/words")  # its fonts are kept then: a page that is drawn before they come keeps the system's
            page.goto(path or _arrival_day(folder))
            page.evaluate("theme => document.documentElement.setAttribute('data-bs-theme', theme)", theme)
            page.evaluate("document.fonts.ready")
            page.wait_for_load_state("networkidle")
            page.screenshot(path=TO / f"{name}.png")
            context.close()
            print(f"docs/screenshots/{name}.png")
        served.stop()


if __name__ == "__main__":
    main()
