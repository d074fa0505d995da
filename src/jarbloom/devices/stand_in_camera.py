"""A simulated camera for the demo: a tank drawn as it stood on a day. No photograph of anything real."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

WIDTH, HEIGHT = 1200, 800
SAND_Y = 690


@dataclass(frozen=True)
class Shoal:
    """Animals of one look: how many, length and height in px, where they keep (0 surface, 1 sand), colour, stripe."""

    count: int
    length: float
    height: float
    depth: float
    colour: tuple[int, int, int]
    stripe: bool = False
    legs: bool = False


@dataclass(frozen=True)
class Scene:
    """What there is to see. `plants`: 0 bare to 1 full; `algae`: 0 to 1 on stone and glass; `haze`: 0 to 1 milky;
    `yellow`: 0 to 1, as water turns between changes."""

    at: datetime
    shoals: Sequence[Shoal]
    plants: float
    algae: float = 0.0
    haze: float = 0.0
    yellow: float = 0.0


def photo(scene: Scene, seed: int) -> bytes:
    """JPEG bytes with the moment noted as cameras do. The same scene and seed give the same picture."""
    rng = np.random.default_rng(seed)
    image = Image.new("RGB", (WIDTH, HEIGHT), "#1c2527")
    _water(image, scene, rng)
    draw = ImageDraw.Draw(image, "RGBA")
    _back_plants(draw, scene)
    _stone(draw, scene, rng)
    _sand(draw, rng)
    _front_plants(draw, scene)
    for shoal in scene.shoals:
        _shoal(draw, shoal, rng)
    if scene.algae > 0.25:
        _film(draw, scene, rng)
    if scene.haze:
        image = Image.blend(image, Image.new("RGB", image.size, "#dfe7e2"), 0.55 * scene.haze)
    image = image.filter(ImageFilter.GaussianBlur(0.8))
    exif = Image.Exif()
    exif[0x9003] = exif[0x0132] = f"{scene.at:%Y:%m:%d %H:%M:%S}"
    out = io.BytesIO()
    image.save(out, "JPEG", quality=88, exif=exif)
    return out.getvalue()


def _water(image: Image.Image, scene: Scene, rng: np.random.Generator) -> None:
    rows = np.linspace(0.0, 1.0, HEIGHT)[:, None]
    top, low = np.array([186, 219, 222.0]), np.array([74, 126, 138.0])
    tint = scene.yellow * np.array([26.0, 12.0, -40.0])
    water = top * (1 - rows) + low * rows + tint
    pixels = np.repeat(water[:, None, :], WIDTH, axis=1) + rng.normal(0, 2.2, (HEIGHT, WIDTH, 1))
    light = 20 * np.cos(np.linspace(-1.1, 1.1, WIDTH))[None, :, None] * (1 - rows[:, :, None])
    image.paste(Image.fromarray(np.clip(pixels + light, 0, 255).astype(np.uint8)))


def _sand(draw: ImageDraw.ImageDraw, rng: np.random.Generator) -> None:
    points = [(x, SAND_Y + 10 * math.sin(x / 170) + 5 * math.sin(x / 61)) for x in range(0, WIDTH + 20, 20)]
    draw.polygon([*points, (WIDTH, HEIGHT), (0, HEIGHT)], fill="#b9a582")
    for _ in range(900):
        x, y = rng.uniform(0, WIDTH), rng.uniform(SAND_Y + 12, HEIGHT)
        draw.ellipse((x, y, x + 3, y + 2), fill=(120, 100, 70, 120))


def _stone(draw: ImageDraw.ImageDraw, scene: Scene, rng: np.random.Generator) -> None:
    for cx, w, h in ((330, 330, 210), (520, 190, 120)):
        box = (cx - w / 2, SAND_Y + 20 - h, cx + w / 2, SAND_Y + 20 + h)
        draw.pieslice(box, 180, 360, fill="#6f7573", outline="#3c4544", width=3)
        for _ in range(int(260 * scene.algae)):
            a, r = rng.uniform(math.pi, 2 * math.pi), rng.uniform(0.5, 0.98)
            x, y = cx + math.cos(a) * w / 2 * r, SAND_Y + 20 + math.sin(a) * h * r
            draw.ellipse((x - 5, y - 3, x + 5, y + 3), fill=(66, 98, 52, 150))


def _stem(draw: ImageDraw.ImageDraw, x: float, height: float, leaf: float, fill: str, lean: float) -> None:
    points = [(x + lean * (k / 20) ** 2 * 60, SAND_Y + 14 - height * k / 20) for k in range(21)]
    draw.line(points, fill="#2f5540", width=4)
    for k in range(3, 20, 2):
        px, py = points[k]
        for side in (-1, 1):
            tip = (px + side * leaf, py - leaf * 0.45)
            draw.polygon(
                [(px, py), (px + side * leaf * 0.45, py - leaf * 0.5), tip, (px + side * leaf * 0.5, py + 2)], fill=fill
            )


def _back_plants(draw: ImageDraw.ImageDraw, scene: Scene) -> None:
    for k in range(int(9 * scene.plants)):
        x = 760 + 44 * k + 12 * math.sin(k * 2.1)
        _stem(draw, x, (190 + 330 * scene.plants) * (0.8 + 0.2 * math.sin(k * 1.7)), 34, "#4f7a55", 0.6 * math.sin(k))


def _front_plants(draw: ImageDraw.ImageDraw, scene: Scene) -> None:
    for k in range(int(8 * scene.plants)):
        x = 70 + 26 * k + 9 * math.sin(k * 3.3)
        length = (70 + 130 * scene.plants) * (0.7 + 0.3 * math.cos(k * 1.3))
        for side in (-1, 0, 1):
            tip = (x + side * length * 0.5, SAND_Y + 10 - length * (1 - 0.25 * abs(side)))
            draw.polygon([(x - 7, SAND_Y + 16), tip, (x + 7, SAND_Y + 16)], fill="#3f6a48")


def _shoal(draw: ImageDraw.ImageDraw, shoal: Shoal, rng: np.random.Generator) -> None:
    for _ in range(shoal.count):
        x = rng.uniform(90, WIDTH - 90)
        y = 90 + shoal.depth * (SAND_Y - 120) + rng.normal(0, 46 * (1 - shoal.depth) + 6)
        y = min(max(y, 60), SAND_Y - 4)
        size = rng.uniform(0.85, 1.15)
        length, height, way = shoal.length * size, shoal.height * size, rng.choice([-1, 1])
        body = (x - length / 2, y - height / 2, x + length / 2, y + height / 2)
        draw.ellipse(body, fill=shoal.colour, outline=(40, 24, 14), width=2)
        if shoal.legs:
            for k in range(4):
                lx = x - length / 3 + k * length / 5
                draw.line([(lx, y + height / 3), (lx - 4, y + height)], fill=(90, 30, 24), width=2)
            draw.line([(x + way * length / 2, y), (x + way * length, y - height)], fill=(90, 30, 24), width=2)
            continue
        tail = x - way * length / 2
        end = tail - way * length * 0.24
        fin = [(tail, y), (end, y - height * 0.5), (end, y + height * 0.5)]
        draw.polygon(fin, fill=shoal.colour, outline=(40, 24, 14))
        if shoal.stripe:
            draw.polygon(
                [(x, y - height * 0.34), (x - way * length * 0.42, y), (x, y + height * 0.34)], fill=(40, 28, 30)
            )
        eye = x + way * length * 0.33
        draw.ellipse((eye - 3, y - height * 0.15 - 3, eye + 3, y - height * 0.15 + 3), fill=(20, 16, 14))


def _film(draw: ImageDraw.ImageDraw, scene: Scene, rng: np.random.Generator) -> None:
    for _ in range(int(1500 * (scene.algae - 0.25))):
        x, y = rng.uniform(0, WIDTH), rng.uniform(60, HEIGHT)
        r = rng.uniform(2, 7)
        draw.ellipse((x - r, y - r, x + r, y + r), fill=(70, 110, 60, 46))
