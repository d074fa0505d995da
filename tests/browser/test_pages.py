"""Every page of the demo at desk and phone size: no console error, no sideways scroll, nothing axe objects to."""

from pathlib import Path

from tests.browser.base import DESK, PHONE, InBrowser

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text("utf-8")
PAGES = ["/", "/start", "/start/dry", "/start/cycling", "/start/trouble", "/preferences", "/schedule", "/waters",
         "/waters/0", "/instruments/0",
         "/tanks/sunroom-112/log/new/test",
         "/tanks/sunroom-112/log/new/observation",
         *(f"/tanks/{slug}{page}" for slug in ("sunroom-112", "hall-96", "desk-28", "landing-60")
           for page in ("", "/chart", "/outlook", "/stocking", "/upset", "/log", "/settings", "/setup/volume",
                        "/setup/equipment",
                        "/setup/water", "/setup/fill", "/setup/school", "/setup/culture", "/setup/probe",
                        "/animals")),
         *(f"/tanks/{slug}{page}" for slug in ("sunroom-112", "hall-96")
           for page in ("/animals/book", "/animals/styles?style=community", "/arrival")),
         "/species", "/species/new?like=guppy"]  # fmt: skip


class EveryPage(InBrowser):
    def visit(self, size: dict[str, int]) -> None:
        page = self.new_page(size)
        for path in PAGES:
            with self.subTest(path=path, width=size["width"]):
                self.problems.clear()
                answer = page.goto(path)
                assert answer is not None
                self.assertEqual(answer.status, 200)
                if path == "/tanks/sunroom-112/stocking":
                    page.wait_for_load_state("networkidle")  # what the planner says comes after
                sideways = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
                self.assertLessEqual(sideways, 0)
                self.assertEqual(self.problems, [])

    def test_at_the_desk(self) -> None:
        self.visit(DESK)

    def test_on_the_phone(self) -> None:
        self.visit(PHONE)

    def test_axe_finds_nothing_serious_in_either_theme(self) -> None:
        page = self.page
        # What stands where is the same in both themes; colours are not.
        for theme, rules in (("light", ""), ("evening", "runOnly: ['color-contrast']")):
            for path in (
                "/",
                "/tanks/sunroom-112",
                "/tanks/hall-96/upset",
                "/tanks/sunroom-112/stocking",
                "/tanks/sunroom-112/outlook?w=wc+30%25&d=2026-11-25",
                "/tanks/hall-96/log",
                "/start/trouble",
                "/tanks/hall-96/settings",
                "/tanks/landing-60/setup/volume",
                "/tanks/landing-60/setup/equipment",
                "/tanks/landing-60/setup/water",
                "/tanks/sunroom-112/setup/school",
                "/tanks/desk-28/setup/fill",
                "/tanks/landing-60/setup/culture",
                "/tanks/landing-60/setup/probe",
                "/schedule",
                "/waters",
                "/tanks/hall-96/animals/book",
                "/tanks/sunroom-112/arrival",
                "/species/new",
            ):
                with self.subTest(path=path, theme=theme):
                    page.goto(path)
                    if path.endswith("/stocking"):
                        page.wait_for_load_state("networkidle")
                    page.evaluate("theme => document.documentElement.setAttribute('data-bs-theme', theme)", theme)
                    page.evaluate(AXE)
                    found = page.evaluate(
                        f"axe.run({{resultTypes: ['violations'], {rules}}}).then(r => r.violations.map("
                        "v => [v.impact, v.id, v.nodes.slice(0, 3).map(n => n.html.slice(0, 160))]))"
                    )
                    self.assertEqual([v for v in found if v[0] in ("serious", "critical")], [])

    def test_wet_targets_are_large(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/tanks/sunroom-112")
        for name in ("one step up, ammonia", "one step down, ammonia"):
            box = page.get_by_role("button", name=name).bounding_box()
            assert box is not None
            self.assertGreaterEqual(min(box["width"], box["height"]), 64)
        small = page.evaluate("""Array.from(document.querySelectorAll('.jb-dock button, .jb-tabs a')).filter(
            b => b.offsetParent && b.getBoundingClientRect().height < 43).map(b => b.outerHTML.slice(0, 90))""")
        self.assertEqual(small, [])
