"""The planner, arrival day, stock book, styles and own species through HTTP: answers, bad input, nothing lost."""

from __future__ import annotations

import html
import re

from tests.web.test_pages import Web

TANK, HALL = "/tanks/sunroom-112", "/tanks/hall-96"


class Pages(Web):
    def told(self, path: str, data: dict, status: int = 303) -> str:
        answer = self.post(path, data)
        self.assertEqual(answer.status_code, status, answer.text[:300])
        return html.unescape(answer.text) if status != 303 else answer.headers["location"]

    def batch_ids(self) -> list[str]:
        return re.findall(r'<section class="jb-batch"[^>]*data-batch="(\d+)"', self.said(f"{TANK}/stocking"))


class Board(Pages):
    def test_the_board_says_how_every_batch_stands(self) -> None:
        text = self.said(f"{TANK}/stocking/board")
        self.assertEqual(text.count("<tr>"), 1 + len(self.batch_ids()))
        self.assertRegex(text, r"\d+ of \d+")

    def test_every_tank_is_answered_also_the_dry_one(self) -> None:
        for slug in ("sunroom-112", "hall-96", "desk-28", "landing-60"):
            for part in ("board", "ahead"):
                self.said(f"/tanks/{slug}/stocking/{part}")

    def test_another_day_is_tried_and_not_kept(self) -> None:
        first = self.batch_ids()[0]
        tried = self.said(f"{TANK}/stocking/board?batch={first}&days=9")
        self.assertIn("9\xa0days later than", tried)
        self.assertIn("data-planned=", tried)
        self.assertNotIn("later than", self.said(f"{TANK}/stocking/board"))
        self.said(f"{TANK}/stocking/board?batch={first}&days=x", 422)
        self.said(f"{TANK}/stocking/board?batch=999&days=3")
        two = f"{TANK}/stocking/board?from={first}&species=kuhli_loach&count=2&to=new"
        self.assertIn("A new batch on", self.said(two))  # tried, with how it would stand there
        self.assertNotIn("A new batch", self.said(f"{TANK}/stocking/board"))
        self.assertNotIn("A new batch", self.said(two.replace("kuhli_loach", "guppy")))  # none there to move

    def test_the_planner_names_days_ways_and_terms(self) -> None:
        text = self.said(f"{TANK}/stocking/ahead")
        for words in ("all at once", "a third every two weeks", "first sure day", "no more is called sure"):
            self.assertIn(words, text)

    def test_without_a_plan_there_is_nothing_to_work_out(self) -> None:
        batch = re.search(r"/stocking/(\d+)/remove", self.said(f"{HALL}/stocking"))[1]
        self.told(f"{HALL}/stocking/{batch}/remove", {})
        self.assertIn("Nothing waits", self.said(f"{HALL}/stocking/ahead"))
        self.assertIn("Nothing waits to be planned", self.told(f"{HALL}/stocking/days", {}, 422))
        change = re.search(r"/stocking/undo/(\d+)", self.said(f"{HALL}/stocking"))[1]
        self.told(f"{HALL}/stocking/undo/{change}", {})

    def test_days_are_taken_and_undone(self) -> None:
        before = self.said(f"{TANK}/stocking")
        where = self.told(f"{TANK}/stocking/days", {})
        after = self.said(where)
        self.assertIn("The planner’s days", after.replace("planner's", "planner’s"))
        change = re.search(r"/stocking/undo/(\d+)", after)[1]
        self.told(f"{TANK}/stocking/undo/{change}", {})
        planned = r'type="date" name="planned" value="([^"]*)"'
        self.assertEqual(re.findall(planned, before), re.findall(planned, self.said(f"{TANK}/stocking")))
        self.assertEqual(self.post(f"{TANK}/stocking/undo/{change}", {}).status_code, 404)

    def test_the_dose_that_the_plan_asks_for_is_one_press(self) -> None:
        reef = "/tanks/landing-60/stocking"
        self.assertIn("no sure end of the cycling", self.said(f"{reef}/ahead"))
        self.assertNotIn("changed", self.told(f"{reef}/target", {}))  # a setting: no change of the plan to undo
        after = self.said(f"{reef}/ahead")
        self.assertNotIn("no sure end of the cycling", after)
        self.assertIn("suits what is planned already", self.told(f"{reef}/target", {}, 422))

    def test_free_days_are_kept(self) -> None:
        self.told(f"{TANK}/stocking/free-days", {"day": ["5", "6"]})
        self.assertIn("on Saturday or Sunday", self.said(f"{TANK}/stocking/ahead"))
        self.assertEqual(self.post(f"{TANK}/stocking/free-days", {"day": ["9"]}).status_code, 422)
        self.told(f"{TANK}/stocking/free-days", {})

    def test_a_refused_shift_stands_at_its_batch(self) -> None:
        first, second = self.batch_ids()[:2]
        text = self.told(f"{TANK}/stocking/{first}/shift", {"species": "kuhli_loach", "count": "99", "to": second}, 422)
        self.assertRegex(text, r'role="alert">Batch one holds \d+ of them')


class Arriving(Pages):
    def test_what_is_missing_is_told_and_what_was_typed_stays(self) -> None:
        text = self.told(
            f"{TANK}/arrival", {"batch": "", "litres": "", "hours": "2", "ph": "99", "ammonia": "lots"}, 422
        )
        for words in ("Say which batch", "“water in the bag” is needed", "99 is not within", "Everything you typed"):
            self.assertIn(words, text)
        self.assertIn('value="lots"', text)

    def test_a_day_from_the_bag_to_the_tank(self) -> None:
        first = self.batch_ids()[0]
        self.assertIn("The gate holds this batch", self.said(f"{TANK}/arrival?batch={first}"))
        bag = {"batch": first, "litres": "1.5", "hours": "20", "temp_c": "21", "ph": "6.4", "where": "display"}
        run = self.told(f"{TANK}/arrival", bag)
        self.assertIn("Bag against tank", self.said(run))
        self.assertIn("Another step stands now", self.told(f"{run}/across", {}, 422))
        self.told(f"{run}/lights", {})
        self.told(f"{run}/float", {})
        waiting = self.said(run)
        self.assertRegex(waiting, r'data-until="2026-11-24T\d\d:\d\d')
        self.assertIn("Its time comes at", self.told(f"{run}/drip-1", {}, 422))
        self.assertIn("An arrival day is open", self.said(f"{TANK}/arrival"))
        self.told(f"{run}/untick", {})
        self.told(f"{run}/end", {})
        self.assertIn("is over", self.said(run))

    def test_what_the_log_read_in_the_bag_stands_in_the_form(self) -> None:
        self.told(f"{TANK}/log/line", {"line": "bag t 21 ph 6.4 am 1"})
        form = self.said(f"{TANK}/arrival")
        for name, value in (("temp_c", "21"), ("ph", "6.4"), ("ammonia", "1")):
            self.assertRegex(form, rf'name="{name}"[^>]*value="{value}"')
        self.told(re.search(rf"{TANK}/acts/\d+/undo", self.said(TANK))[0], {})
        self.assertNotRegex(self.said(f"{TANK}/arrival"), 'name="ph"[^>]*value="6.4"')

    def test_a_run_of_another_tank_is_not_found(self) -> None:
        self.said(f"{HALL}/arrival/77", 404)


class Book(Pages):
    def test_groups_losses_and_heads(self) -> None:
        text = self.said(f"{HALL}/animals/book")
        for words in ("15 animals of 2 kinds", "from a shop", "1 of 10", "last counted", "14 days after coming"):
            self.assertIn(words, text)

    def test_a_wrong_count_stands_at_its_field_with_what_was_typed(self) -> None:
        text = self.told(f"{HALL}/animals/book/count", {"heads-harlequin_rasbora": "x9"}, 422)
        self.assertIn("“x9” is not a number", text)
        self.assertIn('value="x9"', text)
        self.assertIn("Type how many heads", self.told(f"{HALL}/animals/book/count", {}, 422))

    def test_counted_given_and_undone(self) -> None:
        where = self.told(f"{HALL}/animals/book/count", {"heads-harlequin_rasbora": "7"})
        self.assertIn("2 not seen since", self.said(where))
        act = re.search(r'name="act" value="(\d+)"', self.said(where))[1]
        self.told(f"{HALL}/animals/book/undo", {"act": act})
        self.assertNotIn("not seen since", self.said(f"{HALL}/animals/book"))
        group = re.search(r"/animals/book/(\d+)/left", self.said(f"{HALL}/animals/book"))[1]
        for data, said in (
            ({"how": "given", "count": "99"}, "too high"), ({"how": "eaten", "count": "1"}, "what became"),
            ({"how": "moved", "count": "1", "to": ""}, "into which tank"),
        ):  # fmt: skip
            self.assertIn(said, self.told(f"{HALL}/animals/book/{group}/left", data, 422))
        held = self.told(f"{HALL}/animals/book/{group}/left", {"how": "moved", "count": "1", "to": "sunroom-112"}, 409)
        self.assertIn("give the reason", held)


class Styles(Pages):
    def test_every_style_answers_and_only_those_of_the_water_can_be_planned(self) -> None:
        keys = re.findall(r"\?style=(\w+)\"", self.said(f"{TANK}/animals/styles"))
        self.assertGreater(len(keys), 5)
        filled = 0
        for key in keys:
            text = self.said(f"{TANK}/animals/styles?style={key}&bare=on")
            filled += "Put all of it on the plan" in text
            self.assertTrue("Put all of it on the plan" in text or "Nobody of the catalogue fills it" in text)
        self.assertGreater(filled, 4)
        self.assertIn("kept in marine water", self.said(f"{TANK}/animals/styles?style=small_reef"))
        self.said(f"{TANK}/animals/styles?style=castle", 404)

    def test_a_tank_that_is_full_by_its_plan_is_told_so(self) -> None:
        text = self.said(f"{TANK}/animals/styles?style=community")
        self.assertRegex(text, r"come to 3\d.mg.N a day, grown up; such a tank may come to 3\d.mg.N: no room for more")
        self.assertNotIn("nobody suits", text)

    def test_a_proposal_goes_onto_the_plan_as_one_change(self) -> None:
        where = self.told(f"{TANK}/animals/styles", {"style": "soft_river", "turn": "0", "bare": "on"})
        text = self.said(where.split("#")[0])
        self.assertIn("onto the plan:", text)
        change = re.search(r"/stocking/undo/(\d+)", text)[1]
        self.assertIn(f"changed={change}#", where)
        self.told(f"{TANK}/stocking/undo/{change}", {})


class Own(Pages):
    def test_like_another_with_what_differs(self) -> None:
        self.assertIn("Did you mean", self.said("/species/new?like=gupy", 422))
        form = self.said("/species/new?like=kuhli+loach")
        fields = dict(re.findall(r'<input name="(\w+)"[^>]*value="([^"]*)"', form))
        selects = re.findall(r'<select name="(\w+)"(.*?)</select>', form, re.S)
        chosen = {name: re.search(r'value="([^"]*)" selected', body)[1] for name, body in selects if "selected" in body}
        bad = self.told("/species/new", fields | chosen | {"name": "glass loach", "adult_cm": "900"}, 422)
        self.assertIn("900 cm is not within", bad)
        self.assertIn('value="glass loach"', bad)
        self.told("/species/new", fields | chosen | {"name": "glass loach", "adult_cm": "7"})
        self.assertIn("glass loach", self.said("/species"))
        self.assertIn("Glass loach", self.said(f"{TANK}/animals/found?q=glass+loach"))
        self.assertIn("own_glass_loach", self.get("/species/own.csv").text)
        self.told("/species/own_glass_loach/remove", {})
        self.assertNotIn("Glass loach", self.said(f"{TANK}/animals/found?q=glass+loach"))
        self.told("/species/own_glass_loach/restore", {})
        self.said("/species/guppy", 404)

    def test_a_doubled_row_keeps_the_text(self) -> None:
        text = self.told("/species/csv", {"csv": "name,like\nsame,guppy\nsame,guppy"}, 422)
        self.assertIn("stands in row 2 too", text)
        self.assertIn("same,guppy", text)
