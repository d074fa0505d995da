"""Where free ammonia and nitrite go in the days after an upset: with nothing done, and with the planned changes."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import FASTING
from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, SURE
from jarbloom.core.bloom.drivers import FuturePlan
from jarbloom.core.bloom.ensemble import Ensemble, Projection, project
from jarbloom.core.bloom.record import plain
from jarbloom.core.upset.response import Response

Array = NDArray[np.floating]
DAYS = 4


@dataclass(frozen=True)
class UpsetCourse:
    """10th, 50th and 90th percentile at each step from `start` on, (3, n_step), mg N/L; `dt` in days."""

    start: datetime
    dt: float
    nh3: Array
    no2: Array

    @property
    def n(self) -> int:
        return self.nh3.shape[1]


def courses(ensemble: Ensemble, response: Response) -> tuple[UpsetCourse, UpsetCourse]:
    """(nothing done, with the changes); nobody feeds either way."""
    until = (ensemble.as_of + timedelta(days=DAYS)).date()
    rest = FuturePlan(feed_factor=FASTING, feed_factor_until=until)
    changes = tuple((max(c.at, ensemble.as_of), c.fraction) for c in response.changes)
    planned = FuturePlan(changes=changes, feed_factor=FASTING, feed_factor_until=until)
    return _course(project(ensemble, rest, DAYS)), _course(project(ensemble, planned, DAYS))


def _course(projection: Projection) -> UpsetCourse:
    n = int(DAYS / projection.dt)
    nh3, no2 = (np.quantile(x[:n], (SURE, LIKELY, AT_BEST), axis=1) for x in (projection.path.nh3, projection.path.no2))
    return UpsetCourse(projection.ensemble.as_of, projection.dt, nh3, no2)


def to_plain(found: tuple[UpsetCourse, ...]) -> list[dict[str, Any]]:
    return [plain(vars(c)) for c in found]


def from_plain(raw: list[dict[str, Any]]) -> tuple[UpsetCourse, ...]:
    return tuple(
        UpsetCourse(datetime.fromisoformat(c["start"]), c["dt"], np.array(c["nh3"]), np.array(c["no2"])) for c in raw
    )
