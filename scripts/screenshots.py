"""Makes the pictures of docs/screenshots from the demo, with the clock fixed."""

from __future__ import annotations

from pathlib import Path

from tests.browser.base import DESK, PHONE, Served, browser
from tests.make import NOW, demo_folder

from jarbloom.settings import Settings

TO = Path(__file__).parent.parent / "docs" / "screenshots"
VIEWS = (
    ("bench", "/", DESK, "light"), ("tank", "/tanks/sunroom-112", DESK, "light"),
    ("tank-phone", "/tanks/sunroom-112", PHONE, "light"),
    ("log", "/tanks/hall-96/log", DESK, "light"), ("batches", "/tanks/sunroom-112/stocking", DESK, "light"),
    ("upset", "/tanks/hall-96/upset", DESK, "light"),
    ("start", "/start", DESK, "light"), ("trouble-phone", "/start/trouble", PHONE, "light"),
    ("outlook", "/tanks/sunroom-112/outlook", DESK, "light"),
    ("what-if", "/tanks/sunroom-112/outlook?w=wc+30%25&d=2026-11-25&w=dose+4+mg/l&d=2026-11-24"
     "&w=in+6+kuhli+loaches&d=2026-11-28#whatif", DESK, "light"),
    ("animal", "/tanks/sunroom-112/animals?look=angelfish", DESK, "light"),
    ("together", "/tanks/sunroom-112/animals/together?with=angelfish&with=guppy&with=betta&with=cherry_shrimp"
     "&with=kribensis&with=serpae_tetra&with=honey_gourami&with=otocinclus", DESK, "light"),
    ("volume", "/tanks/landing-60/setup/volume", DESK, "light"),
    ("equipment-evening", "/tanks/sunroom-112/setup/equipment", DESK, "evening"),
    ("water", "/tanks/landing-60/setup/water", DESK, "light"),
    ("fill-phone", "/tanks/desk-28/setup/fill", PHONE, "light"),
    ("school", "/tanks/sunroom-112/setup/school", DESK, "light"),
    ("probe", "/tanks/landing-60/setup/probe", DESK, "light"), ("schedule", "/schedule", DESK, "light"),
)  # fmt: skip


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
            page.goto(path)
            page.evaluate("theme => document.documentElement.setAttribute('data-bs-theme', theme)", theme)
            page.evaluate("document.fonts.ready")
            page.wait_for_load_state("networkidle")
            page.screenshot(path=TO / f"{name}.png")
            context.close()
            print(f"docs/screenshots/{name}.png")
        served.stop()


if __name__ == "__main__":
    main()
