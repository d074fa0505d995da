"""Forecast and advice as JSON for machines: the same answers that the tank page gives in words."""

from __future__ import annotations

import json
from typing import Any

from jarbloom.core.advice.situation import Seen
from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, QUANTILES, SURE
from jarbloom.core.bloom.forecast import CERTAIN, Forecast


def _round(value: Any) -> Any:
    return None if value is None else float(f"{value:.6g}")


def advice(seen: Seen) -> dict[str, Any]:
    s, f = seen.situation, seen.situation.forecast
    batch = s.next_batch
    outlook = s.outlook(batch) if batch else None
    gate = s.next_gate
    following = None
    if batch and outlook:
        following = {
            "items": [{"species": a.species, "count": a.count} for a in batch.items],
            "load_mg_n_day": _round(outlook.load),
            "p_safe": _round(outlook.p_safe if outlook.p_safe_today is None else outlook.p_safe_today),
            "earliest_date": outlook.first_sure.isoformat() if outlook.first_sure else None,
            "max_load_now_mg_n_day": _round(max(0.0, f.sure - f.load_adult)),
            "gate": {
                "passed": bool(gate and gate.passed),
                "missing": [c.missing for c in gate.missing] if gate else [],
            },
        }
    r = f.readiness
    return {
        "as_of": f.as_of.isoformat(),
        "tank": s.tank.name,
        "verdict": {
            "state": seen.verdict.state,
            "sentence": seen.verdict.sentence,
            "reasons": list(seen.verdict.reasons),
        },
        "headroom": {
            "capacity_mg_n_day": {"p10": _round(f.band("capacity", SURE)), "p50": _round(f.band("capacity", LIKELY)),
                                  "p90": _round(f.band("capacity", AT_BEST))},
            "load_mg_n_day": _round(f.load_adult),
            "ceiling_mg_n_day": _round(f.ceiling),
        },
        "readiness": {q: (d.isoformat() if (d := getattr(r, q)) else None) for q in ("p10", "p25", "p50", "p75", "p90")}
        | {"already": _round(r.already), "certain_from": CERTAIN},
        "next_batch": following,
        "jobs": [{"kind": j.kind, "title": j.title, "due": j.due.isoformat(), "amount": _round(j.amount),
                  "unit": j.unit,
                  "why": j.why} for j in seen.jobs],
    }  # fmt: skip


def forecast(f: Forecast) -> dict[str, Any]:
    names = {"tan": "tan_mg_n_l", "nh3": "nh3_mg_n_l", "no2": "no2_mg_n_l", "no3": "no3_mg_n_l",
             "capacity": "capacity_mg_n_day", "capacity_a": "capacity_ammonia_mg_n_day",
             "capacity_b": "capacity_nitrite_mg_n_day"}  # fmt: skip
    daily = [
        {"date": d.isoformat()}
        | {
            out: {f"p{100 * q:.0f}": _round(f.bands[name][i, k]) for i, q in enumerate(QUANTILES)}
            for name, out in names.items()
        }
        for k, d in enumerate(f.days)
    ]
    return {
        "as_of": f.as_of.isoformat(), "version": f.version, "seed": f.seed, "members": f.members,
        "readiness": {q: (d.isoformat() if (d := getattr(f.readiness, q)) else None)
                      for q in ("p10", "p25", "p50", "p75", "p90")} | {"already": _round(f.readiness.already)},
        "batches": [{"id": b.batch_id, "load_mg_n_day": _round(b.load), "planned": b.planned.isoformat(),
                     "p_safe": _round(b.p_safe), "first_sure": b.first_sure.isoformat() if b.first_sure else None}
                    for b in f.batches],
        "surprises": [{"at": x.at.isoformat(), "quantity": x.quantity, "typed": x.typed,
                       "probability": _round(x.probability)} for x in f.surprises],
        "days": daily,
    }  # fmt: skip


def to_text(answer: dict[str, Any]) -> str:
    return json.dumps(answer, indent=2, ensure_ascii=False, allow_nan=False)
