"""Forecast and advice as JSON for machines: the same answers that the tank page gives in words."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from jarbloom.core.advice.food import ration
from jarbloom.core.advice.situation import TankSeen, standing_gate
from jarbloom.core.advice.testing import next_test
from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, QUANTILES, SURE
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.outlook import CERTAIN
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.bloom.whatif import Future
from jarbloom.core.causes.inquiry import inquire
from jarbloom.core.stocking.check import wanted
from jarbloom.formats.forecast_csv import COLUMNS


def _round(value: Any) -> Any:
    return None if value is None else float(f"{value:.6g}")


def _upset(seen: TankSeen) -> dict[str, Any] | None:
    """What the desk says: causes in order with their fit, checks, first aid, courses; None when nothing asks."""
    s = seen.situation
    assert s.facts is not None
    found = inquire(s.facts, s.findings, any(j.kind == "water_change" for j in seen.jobs))
    if not found.asks_why:
        return None
    return {
        "causes": [
            {"key": c.key, "title": c.row.title, "fit": c.fit, "because": [p.words for p in c.because],
             "against": [p.words for p in c.against]}
            for c in found.ranking.causes[:8]
        ],
        "told_apart": not found.ranking.close, "fits_poorly": found.ranking.poor,
        "next_checks": [{"key": c.check.key, "title": c.check.title, "minutes": c.check.minutes,
                         "answers": {a.token: a.label for a in c.check.answers}} for c in found.checks],
        "first_aid": [{"key": h.act.key, "title": h.act.title} for h in found.aid.do],
        "held_back": [{"key": h.act.key, "because": h.because} for h in found.aid.held],
        "never": list(found.aid.never),
        "courses": [
            {"key": c.row.key, "title": c.row.title, "clock": c.clock,
             "steps": [{"at": step.at.isoformat(), "text": step.text} for step in c.steps]}
            for c in found.courses
        ],
    }  # fmt: skip


def advice(seen: TankSeen) -> dict[str, Any]:
    s, f = seen.situation, seen.situation.forecast
    batch = s.next_batch
    outlook = s.outlook(batch) if batch else None
    date = s.date_of(batch) if batch else None
    gate = s.next_gate
    held = wanted([c for c in standing_gate(s) if c.hardness != "taste"], words=True)
    test = next_test(s)
    following = None
    if batch and outlook:
        following = {
            "items": [{"species": a.species, "count": a.count} for a in batch.items],
            "load_mg_n_day": _round(outlook.load),
            "p_safe": _round(outlook.p_safe if outlook.p_safe_today is None else outlook.p_safe_today),
            "earliest_date": date.day.isoformat() if date and date.day else None,
            "earliest_date_range": [date.low.isoformat(), date.day.isoformat()]
            if date and date.low and date.day
            else None,
            "set_by": date.sets if date else "",
            "max_load_now_mg_n_day": _round(max(0.0, f.sure - f.load_now)),
            "gate": {
                "passed": bool(gate and gate.passed),
                "missing": wanted(gate.holding) if gate else [],
            },
        }
    return {
        "as_of": f.as_of.isoformat(),
        "tank": s.tank.name,
        "verdict": {
            "state": seen.verdict.state,
            "severity": seen.verdict.severity.name.lower(),
            "milestone": seen.verdict.milestone,
            "sentence": seen.verdict.sentence,
            "reasons": list(seen.verdict.reasons),
        },
        "findings": [
            {"key": x.key, "severity": x.severity.name.lower(), "fading": x.fading, "sentence": x.sentence,
             "acts": list(x.acts), "never": list(x.row.never), "feeding": x.feeding.name.lower(),
             "holds_gate": x.holds_gate, "entries": list(x.found.entries), "ends": x.row.ends}
            for x in s.findings
        ],
        "upset": _upset(seen),
        "tank_gate": {"open": not held, "held_by": held},
        "feeding": ration(s).level.name.lower() if s.living else None,
        "next_test": {"due": test.due.isoformat(), "quantities": list(test.quantities), "repeat": test.repeat},
        "headroom": {
            "capacity_mg_n_day": {"p10": _round(f.band("capacity", SURE)), "p50": _round(f.band("capacity", LIKELY)),
                                  "p90": _round(f.band("capacity", AT_BEST))},
            "load_mg_n_day": _round(f.load_adult),
            "ceiling_mg_n_day": _round(f.ceiling),
        },
        "readiness": _readiness(f.readiness) | {"certain_from": CERTAIN},
        "next_batch": following,
        "jobs": [{"kind": j.kind, "title": j.title, "due": j.due.isoformat(), "amount": _round(j.amount),
                  "unit": j.unit,
                  "why": j.why} for j in seen.jobs],
    }  # fmt: skip


def _readiness(r: Readiness) -> dict[str, Any]:
    """p50 null: not within the horizon for half of the courses; `in_time`: probability of being ready within it."""
    dates = {q: (d.isoformat() if (d := getattr(r, q)) else None) for q in ("p10", "p25", "p50", "p75", "p90")}
    return dates | {
        "already": _round(r.already), "in_time": _round(r.in_time), "load_mg_n_day": _round(r.stated_load)
    }  # fmt: skip


def _daily(f: Forecast, bands: dict[str, Any], first: int = 0) -> list[dict[str, Any]]:
    return [
        {"date": d.isoformat()}
        | {
            out: {f"p{100 * q:.0f}": _round(bands[name][i, k]) for i, q in enumerate(QUANTILES)}
            for name, out in COLUMNS.items()
        }
        for k, d in enumerate(f.days)
        if k >= first
    ]


def futures(f: Forecast, found: Sequence[Future]) -> list[dict[str, Any]]:
    """What-ifs beside the plan, days from today on."""
    return [
        {
            "name": x.name,
            "readiness": _readiness(x.readiness),
            "peaks_14_days": {
                "nh3_mg_n_l": {"p50": _round(x.nh3_peak_p50), "p90": _round(x.nh3_peak_p90)},
                "no2_mg_n_l": {"p50": _round(x.no2_peak_p50), "p90": _round(x.no2_peak_p90)},
            },
            "p_under_limits": _round(x.p_under),
            "days": _daily(f, x.bands, f.today),
        }
        for x in found
    ]


def forecast(f: Forecast, found: Sequence[Future] = ()) -> dict[str, Any]:
    return {
        "as_of": f.as_of.isoformat(), "version": f.version, "seed": f.seed, "members": f.members,
        "readiness": _readiness(f.readiness), "carries": _readiness(f.carries),
        "next_tests": [{"quantity": t.quantity, "date": t.day.isoformat(), "range_days_now": _round(t.width_now),
                        "range_days_after": _round(t.width_after)} for t in f.next_tests],
        "range_hangs_on": [{"what": u.words, "share": _round(u.share)} for u in f.unknowns],
        "batches": [{"id": b.batch_id, "load_mg_n_day": _round(b.load), "planned": b.planned.isoformat(),
                     "p_safe": _round(b.p_safe), "p_safe_today": _round(b.p_safe_today),
                     "p_first_day": _round(b.p_first_day), "p_with_the_rest": _round(b.p_rest),
                     "first_sure": b.first_sure.isoformat() if b.first_sure else None}
                    for b in f.batches],
        "unlogged": f.unlogged, "lost": f.lost,
        "steps": [{"do": x.name, "opens_gate_in_days": [_round(p) for p in x.opens],
                   "clean_in_days": [_round(p) for p in x.clean], "dose_gone_in_days": [_round(p) for p in x.spent],
                   "opens_gate_at": {at.isoformat(): _round(p) for at, p in x.early}}
                  for x in f.steps],
        "surprises": [{"at": x.at.isoformat(), "quantity": x.quantity, "typed": x.typed,
                       "probability": _round(x.probability)} for x in f.surprises],
        "days": _daily(f, f.bands), "what_ifs": futures(f, found),
    }  # fmt: skip


def to_text(answer: dict[str, Any]) -> str:
    return json.dumps(answer, indent=2, ensure_ascii=False, allow_nan=False)
