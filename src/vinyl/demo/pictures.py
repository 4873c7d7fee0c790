"""Sleeves for the demo records: a horizon, a sun and waves, drawn from a seed."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image, ImageDraw

SIZE = 400
PAPERS = ("#e9e4d4", "#d6dccb", "#e6d8c8", "#cfd8dc", "#efe6c9")
INKS = ("#16261f", "#24435c", "#3d2a52", "#5a2b20", "#1f4a3c")
SUNS = ("#d9482b", "#c98a12", "#6a4a9c", "#2f6f9f", "#e8e2d0")


def sleeve(seed: int) -> bytes:
    """A JPEG of SIZE by SIZE pixels; the same seed gives the same sleeve."""
    random = np.random.default_rng(seed)
    paper, ink, sun = (str(random.choice(colours)) for colours in (PAPERS, INKS, SUNS))
    image = Image.new("RGB", (SIZE, SIZE), paper)
    draw = ImageDraw.Draw(image)
    x, y, radius = (int(random.integers(low, high)) for low, high in ((90, 310), (80, 190), (40, 95)))
    draw.ellipse([x - radius, y - radius, x + radius, y + radius], fill=sun)
    horizon = int(random.integers(190, 260))
    draw.rectangle([0, horizon, SIZE, SIZE], fill=ink)
    _waves(draw, random, horizon, paper)
    if random.random() < 0.5:
        _mast(draw, int(random.integers(60, 340)), horizon, ink)
    buffer = io.BytesIO()
    image.save(buffer, "JPEG", quality=85)
    return buffer.getvalue()


def _waves(draw: ImageDraw.ImageDraw, random: np.random.Generator, horizon: int, colour: str) -> None:
    columns = np.arange(0, SIZE + 8, 8)
    for row in range(int(random.integers(4, 9))):
        level = horizon + 14 + row * 18
        swell = 5 * np.sin(columns / random.uniform(18, 50) + random.uniform(0, 6))
        draw.line(
            [(int(x), int(level + s)) for x, s in zip(columns, swell, strict=True)], fill=colour, width=3
        )


def _mast(draw: ImageDraw.ImageDraw, x: int, horizon: int, colour: str) -> None:
    draw.line([(x, horizon), (x, horizon - 120)], fill=colour, width=4)
    draw.polygon([(x + 6, horizon - 112), (x + 6, horizon - 16), (x + 62, horizon - 16)], fill=colour)
