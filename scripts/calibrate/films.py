"""The film world: films that diffusion limits, that wake from dormancy, compete for space and detach, in a climate of
day-by-day noise; guild parameters of other literature than the model's."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from jarbloom.core.bloom.parameters import LOW_MG_N_L
from jarbloom.core.model.reference import Media
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.media import ceiling_mg_n_day
from jarbloom.core.vessel.volume import net_l
from scripts.calibrate.made import MadeWorld


class FilmWorld(MadeWorld):
    def __init__(self, tank: Tank, media: Mapping[str, Media], rng: np.random.Generator) -> None:
        super().__init__(tank, media, rng)
        ln = self.ln
        rich = 4.0 if tank.planted else 1.0
        self.mu = (min(ln(0.62, 0.20), 1.2), min(ln(0.54, 0.25), 1.2))
        self.k = (ln(0.35, 0.4), ln(0.30, 0.5))
        self.q10 = (ln(2.3, 0.08), ln(1.9, 0.08))
        self.kappa = (ln(1.6, 0.25), ln(1.6, 0.25))  # diffusion: flux at most kappa sqrt(X S)
        self.wake, self.death = ln(0.40, 0.4), ln(0.035, 0.3)
        self.space = ceiling_mg_n_day(tank, media) / net_l(tank) * ln(3.0, 0.4)
        self.ki_b = ln(0.30, 0.5)
        self.ph_low = float(6.45 + 0.15 * rng.standard_normal())
        self.rot = ln(0.22, 0.4)
        self.inputs, self.gains = ln(1.0, 0.25), {q: ln(1.0, 0.12) for q in ("ammonia", "nitrite", "nitrate")}
        self.plants = ln(0.05, 0.7) if tank.planted else 0.0
        self.ph_slope, self.ph_ref = float(rng.uniform(0.7, 1.0)), tank.ph + 0.15 * float(rng.standard_normal())
        self.ph_bias = 0.1 * float(rng.standard_normal())
        self.misread = float(rng.uniform(0.10, 0.20)) if tank.kit.kind == "liquid" else 0.30
        self.dormant = [ln(6.0e-3, 1.0) * rich, ln(2.2e-3, 1.0) * rich]
        self.film = [1e-5, 1e-5]
        self.climate = [0.0, 0.0]

    def _slowed(self, ph: float) -> float:
        return 1 / (1 + 10 ** (2 * (self.ph_low - ph)) + 10 ** (ph - 9.3))

    def _flux(self, guild: int, s: float, film: float, f: float, warm: float) -> float:
        """mg N/L/day: reaction and half-order diffusion in series."""
        if s <= 0:
            return 0.0
        reaction = film * warm * f * s / (self.k[guild] + s)
        diffusion = self.kappa[guild] * math.sqrt(film * f * s) + 1e-12
        return reaction * diffusion / math.hypot(reaction, diffusion)

    def _each_day(self) -> None:
        for g in (0, 1):
            self.climate[g] = 0.85 * self.climate[g] + 0.16 * float(self.rng.standard_normal())

    def _work(self, content: float, dt: float, temp: float, ph: float, running: float) -> tuple[float, float]:
        env = self._slowed(ph) * self.alk / (0.1 + self.alk) * running
        nh3 = self.tan / (1 + 10 ** (0.09018 + 2729.92 / (temp + 273.15) - ph))
        f = (env, env / (1 + (nh3 / self.ki_b) ** 1.5))
        warm = tuple(q ** ((temp - 25) / 10) for q in self.q10)
        by_a = min(self._flux(0, content, self.film[0], f[0], warm[0]) * dt, content)
        fed = self.no2 + by_a
        by_b = min(self._flux(1, fed, self.film[1], f[1], warm[1]) * dt, fed)
        crowd = (self.film[0] + self.film[1]) / self.space
        for g, flux in ((0, by_a), (1, by_b)):
            woken = self.dormant[g] * self.wake * warm[g] * dt
            self.dormant[g] -= woken
            grown = self.mu[g] * math.exp(self.climate[g]) * flux
            lost = (self.death * warm[g] + 0.08 * crowd) * self.film[g] * dt
            self.film[g] = max(self.film[g] + woken + grown - lost, 1e-9)
        return by_a, by_b

    def _lose(self, share: float) -> None:
        self.film = [f * (1 - share) for f in self.film]

    def _settle(self, key: str, share: float) -> None:
        if key == "borrowed":
            both = share * self.ln(1.0, 0.8)
            self.film[0] += 2.0 * both
            self.film[1] += 1.4 * both * self.ln(1.0, 0.3)
        else:
            both = self.ln(1.0, 1.2)
            self.film[0] += 0.3 * both
            self.film[1] += 0.2 * both * self.ln(1.0, 0.5)

    def clears(self, target_mg_n_l: float) -> bool:
        """A 24 h batch in clean water by this world's own fluxes, at its present pH and temperature."""
        tan, no2, temp = target_mg_n_l, 0.0, self.tank.temp_c
        f = self._slowed(self.ph())
        warm = tuple(q ** ((temp - 25) / 10) for q in self.q10)
        for _ in range(48):
            a = min(self._flux(0, tan, self.film[0], f, warm[0]) / 48, tan)
            tan -= a
            b = min(self._flux(1, no2 + a, self.film[1], f, warm[1]) / 48, no2 + a)
            no2 += a - b
        return tan < LOW_MG_N_L and no2 < LOW_MG_N_L

    def carried(self) -> float:
        f = self._slowed(self.ph())
        warm = [q ** ((self.tank.temp_c - 25) / 10) for q in self.q10]
        return min(self._flux(g, LOW_MG_N_L, self.film[g], f, warm[g]) for g in (0, 1))

    def _look_at(self, shown: float) -> float:
        return shown * float(np.exp(0.12 * self.rng.standard_normal())) + 0.03 * float(self.rng.standard_normal())
