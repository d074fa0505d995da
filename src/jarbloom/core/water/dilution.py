"""Water changes: what is left after one, and how much a usual one is."""

from __future__ import annotations

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

Content = TypeVar("Content", float, NDArray[np.float64])
KH_RISE_DKH = 1.0  # a day, with animals in (practice)
USUAL_CHANGE = 0.3  # share of the tank that a routine change is; common practice is a quarter to a third


def after_change(before: Content, fraction: float, source: float = 0.0) -> Content:
    """Concentration after changing `fraction` (0 to 1) with water of `source` content: (1-f)c + f s.

    >>> after_change(2.0, 0.5, 0.0)
    1.0
    """
    return (1 - fraction) * before + fraction * source
