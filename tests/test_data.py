"""The shipped data files hold together, and the words of the pages keep the house's rules."""

import re
import unittest
from pathlib import Path

from scripts import bootstrap
from scripts.licences import LOCKED

from jarbloom.core.animals.bioload import mass_g
from jarbloom.data import catalogue
from jarbloom.units import US_GAL_L

WEB = Path(__file__).parent.parent / "src" / "jarbloom" / "web"


class Files(unittest.TestCase):
    def test_species_are_plausible(self) -> None:
        for key, s in catalogue.species().items():
            with self.subTest(key=key):
                self.assertRegex(key, r"^[a-z_]+$")
                self.assertTrue(0.001 < mass_g(s, s.adult_cm) < 20_000)  # a metre of catfish
                self.assertLessEqual(s.adult_cm * 2, s.min_length_cm * 1.3)
                self.assertGreaterEqual(s.temp_high - s.temp_low, 2)

    def test_every_school_has_a_gate_a_risk_and_a_rhythm(self) -> None:
        schools = catalogue.schools()
        for school in schools.cycling.values():
            with self.subTest(school=school.key):
                self.assertTrue(school.gate and school.suits and school.asks and school.risk)
                self.assertGreater(school.rhythm_days, 0)
                self.assertIn(school.feeds_by, ("dose", "food", "fish", "die_off"))
                self.assertTrue(all(r.kind in ("clears_dose", "clean_run") for r in school.gate))
                if school.fish_in:
                    self.assertIn("Real", school.risk)
        self.assertEqual([s.max_fraction for s in schools.corrective.values()], [0.30, 0.50, 0.75])

    def test_cautions_named_by_pages_exist(self) -> None:
        used = set()
        for path in (WEB / "templates").rglob("*.html"):
            used |= set(re.findall(r"cautions\.(\w+)", path.read_text("utf-8")))
        self.assertLessEqual(used, set(catalogue.cautions()))
        self.assertIn("never near bleach", catalogue.cautions()["ammonia"])

    def test_numbers_stand_in_one_place(self) -> None:
        self.assertEqual(US_GAL_L, 3.785411784)
        src = Path(__file__).parent.parent / "src"
        for number in ("3.785411784", "17.848", "0.09018", "45.005"):
            places = [p.name for p in src.rglob("*.py") if re.search(re.escape(number) + r"(?!\d)", _code(p))]
            with self.subTest(number=number):
                self.assertLessEqual(len(places), 2, places)


def _code(path: Path) -> str:
    """Without docstrings, which may name a number."""
    return re.sub(r'""".*?"""', "", path.read_text("utf-8"), flags=re.S)


class Wording(unittest.TestCase):
    def test_pages_are_calm(self) -> None:
        for path in (WEB / "templates").rglob("*.html"):
            text = re.sub(r"\{[%#{].*?[%#}]\}|<[^>]*>", " ", path.read_text("utf-8"), flags=re.S)
            with self.subTest(path=path.name):
                self.assertNotIn("!", text.replace("<!doctype", ""))
                self.assertNotRegex(text, r"\b(perfect|guaranteed|harmless)\b")

    def test_no_page_asks_for_an_outside_address(self) -> None:
        for path in [*(WEB / "templates").rglob("*.html"), WEB / "static" / "jarbloom.css", WEB / "static" / "app.js"]:
            self.assertNotRegex(path.read_text("utf-8"), r"https?://(?!www\.w3\.org/)", path.name)

    def test_what_is_shipped_of_bootstrap_is_what_pages_use(self) -> None:
        self.assertEqual(bootstrap.USED.read_text("utf-8"), bootstrap.subset(), "python scripts/bootstrap.py")
        known = frozenset({"seen", "li"})
        css = ".seen,.unseen{a:b}.seen>li:not(.unseen)::before{c:d}li.unseen{e:f}@media (x){.unseen{g:h}.seen{i:j}}"
        kept = ".seen{a:b}.seen>li:not(.unseen)::before{c:d}@media (x){.seen{i:j}}"
        self.assertEqual(bootstrap.kept(css, known), kept)
        read = ":root{--a:1;--b:2}p{color:var(--a)}"
        self.assertEqual(bootstrap.without_unread(read), ":root{--a:1;}p{color:var(--a)}")

    def test_shipped_assets_carry_their_licences(self) -> None:
        notices = (WEB.parents[2] / "THIRD-PARTY.md").read_text("utf-8")
        for name in ("bootstrap", "htmx", "alpine"):
            self.assertTrue((WEB / "static" / "vendor" / f"LICENSE-{name}.txt").stat().st_size > 300)
            self.assertIn(name, notices.lower())
        for name, version in LOCKED.findall((WEB.parents[2] / "requirements" / "run.lock").read_text("utf-8")):
            self.assertIn(f"| {name} | {version} |", notices)  # make licences
        self.assertNotIn("see its files", notices)
        self.assertEqual(len(list((WEB / "static" / "fonts").glob("LICENSE-*"))), 2)
