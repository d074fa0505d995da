"""The patch world: surfaces are patches that are settled by chance and from each other, each behind its own layer of
still water; nitrite oxidisers follow where ammonia is oxidised, grazers come and go, and now and then something is
wrong with the tank for good. Temperature by a curve with an optimum, free ammonia and nitrous acid hold back."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.parameters import LOW_MG_N_L
from jarbloom.core.model.reference import Media
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.media import ceiling_mg_n_day
from jarbloom.core.vessel.volume import net_l
from scripts.calibrate.made import MadeWorld

Array = NDArray[np.float64]
PATCHES = 60
ON_MEDIA = 44  # of them; the others are bed and glass, which no cleaning of the filter touches
YOUNG = 0.0015  # of what a patch can hold: what a founder has become when it is first counted


class PatchWorld(MadeWorld):
    SUBSTEPS = 1

    def __init__(self, tank: Tank, media: Mapping[str, Media], rng: np.random.Generator) -> None:
        super().__init__(tank, media, rng)
        ln = self.ln
        size = np.exp(0.9 * rng.standard_normal(PATCHES))
        # Held by each patch, as the saturated turnover of its ammonia oxidisers at the optimum, mg N/L/day
        self.room = size / size.sum() * ceiling_mg_n_day(tank, media) / net_l(tank) * ln(4.0, 0.4)
        self.colony: Array = np.zeros((2, PATCHES))  # saturated turnover, mg N/L/day
        self.mu = np.array([ln(0.70, 0.18), ln(0.62, 0.2)])[:, None] * np.exp(0.15 * rng.standard_normal((2, PATCHES)))
        self.k = np.array([ln(0.30, 0.4), ln(0.25, 0.4)])[:, None]
        layer = ln(7.0, 0.35) * np.exp(0.4 * rng.standard_normal(PATCHES))
        self.layer = layer * self.room  # mg N/L/day through it for 1 mg N/L
        self.arrive = np.array([ln(0.35, 0.6), ln(0.20, 0.7)]) * (4.0 if tank.planted else 1.0)  # founders a day
        self.spread = ln(0.35, 0.4)  # founders a day from a tank that is full
        self.death, self.grazed, self.graze_days = ln(0.04, 0.3), 0.0, 0
        self.ki_ammonia, self.ki_acid = ln(0.5, 0.4), ln(2.5e-3, 0.5)
        self.best_c, self.least_c = float(rng.uniform(29, 32)), float(rng.uniform(5, 9))
        self.ph_low = float(6.3 + 0.2 * rng.standard_normal())
        self.rot = ln(0.30, 0.4)
        self.inputs, self.gains = ln(1.0, 0.2), {q: ln(1.0, 0.10) for q in ("ammonia", "nitrite", "nitrate")}
        self.plants = ln(0.06, 0.7) if tank.planted else 0.0
        self.ph_slope, self.ph_ref = float(rng.uniform(0.6, 1.0)), tank.ph + 0.12 * float(rng.standard_normal())
        self.ph_bias = 0.12 * float(rng.standard_normal())
        self.misread = 0.12 if tank.kit.kind == "liquid" else 0.25
        self.vigour = float(rng.uniform(0.35, 0.6)) if rng.random() < 0.08 else 1.0  # something is wrong here
        self.season = 0.0

    def _warm(self, temp: float) -> float:
        """Square of a straight line up to the optimum (Ratkowsky), 1 at 25 degrees."""
        up = max(min(temp, self.best_c) - self.least_c, 0.0) / (25 - self.least_c)
        return up * up

    def _held_back(self, ph: float, tan: float, temp: float) -> Array:
        """(2, 1): acid, free ammonia and nitrous acid."""
        nh3 = tan / (1 + 10 ** (0.09018 + 2729.92 / (temp + 273.15) - ph))
        acid = self.no2 * 10 ** (3.3 - ph)
        low = 1 / (1 + 10 ** (2.2 * (self.ph_low - ph)))
        return np.array([[low / (1 + acid / (4 * self.ki_acid))],
                         [low / (1 + nh3 / self.ki_ammonia + acid / self.ki_acid)]])  # fmt: skip

    def _flux(self, s: Array, work: Array) -> Array:
        """(2, PATCHES) mg N/L/day: Monod behind a layer, the smaller root of J^2 - J (V + h (K + S)) + V h S = 0."""
        h = self.layer
        half = 0.5 * (work + h * (self.k + s))
        return half - np.sqrt(np.maximum(half * half - work * h * s, 0.0))

    def _each_day(self) -> None:
        rng = self.rng
        self.season = 0.9 * self.season + 0.1 * float(rng.standard_normal())
        self._found(rng)
        if self.graze_days:
            self.graze_days -= 1
        else:
            self.grazed = 0.0
            if rng.random() < 0.012:
                self.grazed, self.graze_days = float(rng.uniform(0.02, 0.08)), int(rng.integers(5, 15))

    def _found(self, rng: np.random.Generator) -> None:
        """Founders settle on empty patches: a few from nowhere, more from those that are settled."""
        full = self.colony.sum(axis=1) / self.room.sum()
        for g in (0, 1):
            empty = self.colony[g] <= 0
            rate = self.arrive[g] + self.spread * PATCHES * min(1.0, 4 * full[g])
            here = (self.room / self.room.sum()) * (1.0 if g == 0 else 0.25 + 1.5 * (self.colony[0] > 0))
            settles = empty & (rng.random(PATCHES) < 1 - np.exp(-rate * here))
            self.colony[g][settles] = YOUNG * self.room[settles] * np.exp(0.8 * rng.standard_normal(settles.sum()))

    def _work(self, content: float, dt: float, temp: float, ph: float, running: float) -> tuple[float, float]:
        f = self._held_back(ph, content, temp) * (running * self.alk / (0.06 + self.alk))
        warm = self._warm(temp)
        work = self.colony * warm * f
        done = np.zeros((2, PATCHES))
        left, no2 = content, self.no2
        for _ in range(2):
            s = np.array([[left], [no2]])
            j = self._flux(s, work)
            total = j.sum(axis=1)
            # No more than there is: what is left falls off exponentially
            share = -np.expm1(-total * 0.5 * dt / np.maximum(s[:, 0], 1e-9)) * s[:, 0]
            done += j * (share / np.maximum(total, 1e-12))[:, None]
            left, no2 = left - share[0], no2 + share[0] - share[1]
        by_a, by_b = (float(x) for x in done.sum(axis=1))
        free = np.maximum(1 - self.colony.sum(axis=0) / self.room, 0.0)
        grown = self.mu * (self.vigour * math.exp(self.season)) * done * free
        lost = (self.death * warm + self.grazed) * self.colony * dt
        self.colony = np.maximum(self.colony + grown - lost, 0.0)
        self.colony[self.colony < 1e-9] = 0.0
        return by_a, by_b

    def _lose(self, share: float) -> None:
        self.colony[:, :ON_MEDIA] *= 1 - share

    def _settle(self, key: str, share: float) -> None:
        borrowed = key == "borrowed"
        alive = share * 0.16 * self.ln(1.0, 0.7) if borrowed else 0.010 * self.ln(1.0, 1.0)
        of_b = self.ln(0.6, 0.3)
        picked = self.rng.permutation(ON_MEDIA)[: 20 if borrowed else 28]
        room = self.room[picked] / self.room[picked].sum() * min(self.room.sum(), 12.0)
        self.colony[0][picked] += np.minimum(alive * room, 0.6 * self.room[picked])
        self.colony[1][picked] += np.minimum(alive * of_b * room, 0.3 * self.room[picked])

    def clears(self, target_mg_n_l: float) -> bool:
        """A 24 h batch in clean water by this world's own fluxes, at its present pH and temperature."""
        tan, no2, temp = target_mg_n_l, 0.0, self.tank.temp_c
        work = self.colony * self._warm(temp) / (1 + 10 ** (2.2 * (self.ph_low - self.ph())))
        for _ in range(48):
            a, b = (float(x) / 48 for x in self._flux(np.array([[tan], [no2]]), work).sum(axis=1))
            a = min(a, tan)
            b = min(b, no2 + a)
            tan, no2 = tan - a, no2 + a - b
        return tan < LOW_MG_N_L and no2 < LOW_MG_N_L

    def carried(self) -> float:
        work = self.colony * self._warm(self.tank.temp_c) / (1 + 10 ** (2.2 * (self.ph_low - self.ph())))
        return float(self._flux(np.full((2, 1), LOW_MG_N_L), work).sum(axis=1).min())

    def _look_at(self, shown: float) -> float:
        """Colours are told apart by ratio; one tube in fifty was shaken too little and shows half."""
        seen = shown * float(np.exp(0.16 * self.rng.standard_normal()))
        return 0.5 * seen if self.rng.random() < 0.02 else seen
