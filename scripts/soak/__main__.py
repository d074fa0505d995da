"""`make soak`: the long form; tests/test_soak.py runs a short one."""

from __future__ import annotations

import argparse
import sys
import tempfile
from pathlib import Path

from starlette.testclient import TestClient
from tests.make import DEMO_PAGES, FEW, NOW, demo_folder, read_all

from jarbloom.deeds import api_tokens, exchange
from jarbloom.settings import Settings
from jarbloom.web.app import create_app
from scripts.soak.forms import fuzz
from scripts.soak.kills import kill_writers
from scripts.soak.mutants import empty_desk, mutate_answers, mutate_bundles
from scripts.soak.writers import many_at_once, twice_at_once


def main() -> int:
    parser = argparse.ArgumentParser(prog="soak", description=__doc__)
    parser.add_argument("--kills", type=int, default=500)
    parser.add_argument("--pairs", type=int, default=200)
    parser.add_argument("--mutants", type=int, default=10_000)
    parser.add_argument("--forms", type=int, default=5_000)
    parser.add_argument("--writers", type=int, default=50)
    parser.add_argument("--seconds", type=float, default=60)
    given = parser.parse_args()
    worn = kill_writers(given.kills)
    print(f"{worn.kills} kills, {worn.acknowledged} acknowledged lines: {worn.lost} lost, {worn.doubled} doubled, "
          f"{worn.not_whole} faults in the file", flush=True)  # fmt: skip
    fine = worn.clean
    with demo_folder() as folder, tempfile.TemporaryDirectory() as other:
        app = create_app(Settings(folder, NOW, FEW, demo=True))
        desk = empty_desk(Path(other))
        with TestClient(app, raise_server_exceptions=False) as http:
            source = empty_desk(folder)
            token = api_tokens.make(source.conn, "soak", ["read", "write"])
            whole = read_all(exchange.export_house(source))
            source.conn.close()
            good = twice_at_once(http, token, "landing-60", given.pairs)
            print(f"{good} of {given.pairs} pairs sent at once were done once", flush=True)
            crowd = many_at_once(http, token, "landing-60", given.writers, given.seconds)
            print(f"{given.writers} writers: {crowd.sent} sent, {crowd.kept} kept, answers {crowd.answers}, p99 "
                  f"{crowd.spread:.1f} times p50, {crowd.read} reads beside", flush=True)  # fmt: skip
            fine &= good == given.pairs and crowd.sent == crowd.kept and set(crowd.answers) == {201}
        with (
            demo_folder() as folder,
            TestClient(
                create_app(Settings(folder, NOW, FEW, demo=True)),
                raise_server_exceptions=False,
                headers={"Origin": "http://testserver"},
            ) as http,
        ):
            told = fuzz(http, DEMO_PAGES, given.forms)
            print(f"{told.sent} odd forms and addresses: {len(told.fell)} fell, answers {told.by_status}", flush=True)
            print(*told.fell[:9], sep="\n")
            fine &= not told.fell
        bundles = mutate_bundles(desk, whole, given.mutants // 2)
        answers = mutate_answers(given.mutants - given.mutants // 2)
        desk.conn.close()
        for what, told in (("bundles", bundles), ("probe answers", answers)):
            print(f"{told.tried} {what} changed: {told.taken} taken, {told.refused} refused, {len(told.fell)} fell, "
                  f"{told.half} half kept, {told.megabytes} MB at most", flush=True)  # fmt: skip
            print(*told.fell[:5], sep="\n")
            fine &= not told.fell and not told.half
    return 0 if fine else 1


if __name__ == "__main__":
    sys.exit(main())
