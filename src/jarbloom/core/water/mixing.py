"""Mixing source waters: what a blend holds, how to meet a KH, the salt for a salinity, and a buffer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from jarbloom.core.model.tank import Source, Water
from jarbloom.core.water.carbonate import MEQ_PER_DKH, carbon_mmol_l, ph_of
from jarbloom.core.water.salinity import density_kg_l
from jarbloom.errors import Refused
from jarbloom.units import figure

BICARBONATE_MG_MEQ = 84.007  # NaHCO3, g/mol and one equivalent (IUPAC masses)


@dataclass(frozen=True)
class MixPart:
    litres: float
    source: Source


def _mean(parts: Sequence[MixPart], name: str) -> float | None:
    """Linear in litres; None as soon as one part is not known."""
    values = [getattr(p.source, name) for p in parts]
    if any(v is None for v in values):
        return None
    return sum(p.litres * v for p, v in zip(parts, values, strict=True)) / sum(p.litres for p in parts)


def blend(parts: Sequence[MixPart], name: str = "") -> Source:
    """One water of several: everything dissolved is linear, pH by mixing alkalinity and inorganic carbon.

    Raises Refused when there is nothing to mix.
    """
    parts = [p for p in parts if p.litres > 0]
    if not parts:
        raise Refused("Give the litres of at least one water.", "litres")
    total = sum(p.litres for p in parts)
    kh = _mean(parts, "kh_dkh") or 0.0
    alk = kh * MEQ_PER_DKH
    carbon = sum(p.litres * carbon_mmol_l(p.source.ph, p.source.kh_dkh * MEQ_PER_DKH) for p in parts) / total
    ph = ph_of(alk, carbon) if alk > 0.01 and carbon > 0.01 else min(p.source.ph for p in parts)
    kinds = {p.source.chlorine for p in parts}
    worst = next((k for k in ("chloramine", "unknown", "chlorine") if k in kinds), "none")
    return replace(
        parts[0].source,
        ph=min(max(ph, 3.0), 11.0),
        kh_dkh=kh,
        ammonia_mg_n_l=sum(p.litres * p.source.brings_mg_n_l for p in parts) / total,
        nitrate_mg_n_l=_mean(parts, "nitrate_mg_n_l") or 0.0,
        gh_dgh=_mean(parts, "gh_dgh"),
        tds_mg_l=_mean(parts, "tds_mg_l"),
        phosphate_mg_l=_mean(parts, "phosphate_mg_l"),
        chlorine=worst,
        chlorine_mg_l=_mean(parts, "chlorine_mg_l"),
        name=name or " and ".join(p.source.name or "water" for p in parts),
    )


def litres_for_kh(total_l: float, target_dkh: float, hard: Source, soft: Source) -> tuple[float, float]:
    """Litres of the harder and of the softer water that together have the target KH.

    Raises Refused when the target does not lie between the two.
    """
    if hard.kh_dkh < soft.kh_dkh:
        soft_l, hard_l = litres_for_kh(total_l, target_dkh, soft, hard)
        return hard_l, soft_l
    if not soft.kh_dkh <= target_dkh <= hard.kh_dkh:
        raise Refused(
            f"A KH of {figure(target_dkh)} cannot be mixed from {figure(soft.kh_dkh)} and {figure(hard.kh_dkh)} dKH.",
            "target_kh",
        )
    span = hard.kh_dkh - soft.kh_dkh
    share = (target_dkh - soft.kh_dkh) / span if span > 0 else 1.0
    return total_l * share, total_l * (1 - share)


@dataclass(frozen=True)
class Buffer:
    """Sodium bicarbonate for a rise of KH: grams, and the pH that it comes to before it meets the air."""

    grams: float
    ph: float


def bicarbonate_for(litres: float, source: Source, target_dkh: float) -> Buffer:
    """NaHCO3 that lifts KH to the target: 84.007 mg for each meq, and as much carbon as alkalinity.

    Raises Refused for a target below the water's own KH: taking hardness out is done by mixing.
    """
    rise = (target_dkh - source.kh_dkh) * MEQ_PER_DKH
    if rise < -1e-9:
        raise Refused(
            f"The water has {figure(source.kh_dkh)} dKH already; a buffer only raises. Mix softer water in.",
            "target_kh",
        )
    alk = source.kh_dkh * MEQ_PER_DKH
    carbon = carbon_mmol_l(source.ph, alk) + rise
    ph = ph_of(alk + rise, carbon) if alk + rise > 0.01 else source.ph
    return Buffer(rise * litres * BICARBONATE_MG_MEQ / 1000, ph)


def salt_g(
    litres: float, salinity_g_kg: float, factor: float = 1.0, temp_c: float = 25.0, has_g_kg: float = 0.0
) -> float:
    """Salt for litres of finished water: litres x density (kg/L) x S (g/kg) x factor, less what is in it already.

    `factor` 1.0 to 1.1 is for the salt's own water, from the keeper's last mix. For salt into litres of fresh water it
    would be litres x density of fresh water x S / (1 - S/1000): 3,616 g into 100 L, which then come to 101 L.
    >>> round(salt_g(100.0, 35.0))
    3582
    """
    if salinity_g_kg < has_g_kg:
        raise Refused("There is more salt in it already than is wanted: mix fresh water in.", "salinity")

    def per_litre(s: float) -> float:
        return density_kg_l(s, temp_c) * s

    return litres * (per_litre(salinity_g_kg) - per_litre(has_g_kg)) * factor


def factor_from_mix(grams: float, litres: float, reached_g_kg: float, temp_c: float = 25.0) -> float:
    """The keeper's own salt factor, from a mix: grams put in over grams that the salinity reached stands for.

    Raises Refused outside 0.9 to 1.3: then litres, grams or the reading are wrong.
    """
    if reached_g_kg <= 0:
        raise Refused("The salinity that was reached is needed.", "reached")
    factor = grams / salt_g(litres, reached_g_kg, 1.0, temp_c)
    if not 0.9 <= factor <= 1.3:
        raise Refused(
            f"That would be {figure(factor)} g of salt for each g dissolved; between 0.9 and 1.3 is possible. "
            "Check litres, grams and reading.",
            "mixed_g",
        )
    return factor


@dataclass(frozen=True)
class Wish:
    """What is to be mixed: litres in all, one water or two (by their ids), a KH if wanted, and the salinity."""

    litres: float
    first: int
    second: int | None = None
    share_second: float | None = None
    target_kh: float | None = None
    salinity_g_kg: float = 0.0
    temp_c: float = 25.0


@dataclass(frozen=True)
class Mix:
    """The recipe: litres of each water, what they come to, buffer and salt."""

    parts: tuple[tuple[Water, float], ...]
    source: Source
    buffer: Buffer | None
    salt_g: float
    salt_factor: float
    salinity_g_kg: float


def plan_mix(wish: Wish, first: Water, second: Water | None, salt_factor: float) -> Mix:
    """Two waters to the share or the KH that is wanted, a buffer for what is still missing, and the salt.

    Raises Refused naming the field: no litres, a KH that neither mixing nor a buffer reaches.
    """
    if wish.litres <= 0:
        raise Refused("Say how many litres.", "litres")
    litres = _shares(wish, first, second)
    made = blend([MixPart(v, w.source) for w, v in litres])
    buffer = None
    if wish.target_kh is not None and abs(wish.target_kh - made.kh_dkh) > NEAR_DKH:
        buffer = bicarbonate_for(wish.litres, made, wish.target_kh)
        made = replace(made, kh_dkh=wish.target_kh, ph=buffer.ph)
    salt = salt_g(wish.litres, wish.salinity_g_kg, salt_factor, wish.temp_c) if wish.salinity_g_kg else 0.0
    return Mix(tuple(litres), made, buffer, salt, salt_factor, wish.salinity_g_kg)


NEAR_DKH = 0.05  # nearer than this nothing is corrected


def _shares(wish: Wish, first: Water, second: Water | None) -> list[tuple[Water, float]]:
    """Litres of each: to the KH wanted where it lies between two waters, else to the share given, else halves."""
    if second is None or second.id == first.id:
        return [(first, wish.litres)]
    share = wish.share_second
    if share is None and wish.target_kh is not None:
        low, high = sorted((first.source.kh_dkh, second.source.kh_dkh))
        if low <= wish.target_kh <= high:
            a, b = litres_for_kh(wish.litres, wish.target_kh, first.source, second.source)
            return [(w, v) for w, v in ((first, a), (second, b)) if v > 1e-9]
        share = 0.0 if (wish.target_kh > high) == (first.source.kh_dkh == high) else 1.0
    share = 0.5 if share is None else share
    found = [(first, wish.litres * (1 - share)), (second, wish.litres * share)]
    return [(w, v) for w, v in found if v > 1e-9]
