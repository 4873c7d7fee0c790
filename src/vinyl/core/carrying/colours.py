"""Colours of other libraries: sixteen of a palette, a hue, or any; and the nearest of Vinyl's own."""

from __future__ import annotations

import colorsys
from collections.abc import Mapping
from functools import cache, lru_cache

from vinyl.core.carrying.traits import Colours

RGB = tuple[int, int, int]

# Vinyl's inks on its pale paper.
OURS: Mapping[str, str] = {
    "vermilion": "#d8391a", "violet": "#5c3a92", "blue": "#1f6397", "ochre": "#8f5f00", "green": "#2f7050",
    "ink": "#14241d",
}  # fmt: skip
# Reedbank's sixteen tints: stuff of a river bank.
TINTS: Mapping[str, str] = {
    "clay": "#b5543a", "rowan": "#d0342c", "rust": "#a8481f", "amber": "#e0a13a", "straw": "#d9c77e",
    "moss": "#6b7a33", "reed": "#9aa35a", "alder": "#2e6b4d", "water": "#2a6f9e", "frost": "#a9c8d6",
    "slate": "#5a6672", "thistle": "#64409a", "heather": "#9a6a9e", "peat": "#1c241f", "bark": "#8a5d12",
    "chalk": "#e9e6da",
}  # fmt: skip


@cache
def colour_there(colour: str, colours: Colours) -> str:
    """One of Vinyl's colours as another library has it; empty for none, and for a grey where it has hues."""
    if not colour:
        return ""
    rgb = OURS.get(colour, OURS["ink"])
    if colours == "any":
        return rgb
    if colours == "palette":
        return nearest(rgb, TINTS)
    hue, _, strength = colorsys.rgb_to_hsv(*(part / 255 for part in parts_of(rgb)))
    return "" if colour == "ink" or not strength else str(round(hue * 360) % 360)


@lru_cache(maxsize=4096)
def colour_here(colour: str, colours: Colours) -> str:
    """The nearest of Vinyl's colours to one of another library; empty for none."""
    if not colour:
        return ""
    if colours == "palette":
        return nearest(TINTS.get(colour, OURS["ink"]), OURS)
    if colours == "any":
        return nearest(colour, OURS)
    turned = {name: _hue(rgb) for name, rgb in OURS.items() if name != "ink"}
    wanted = float(colour)
    return min(turned, key=lambda name: abs((turned[name] - wanted + 180) % 360 - 180))


def nearest(rgb: str, among: Mapping[str, str]) -> str:
    """The name of the nearest colour, by the weighted distance of red, green and blue (Riemersma, 2008)."""
    red, green, blue = parts_of(rgb)

    def distance(name: str) -> float:
        r, g, b = parts_of(among[name])
        mean = (red + r) / 2
        return (
            (2 + mean / 256) * (red - r) ** 2
            + 4 * (green - g) ** 2
            + (2 + (255 - mean) / 256) * (blue - b) ** 2
        )

    return min(among, key=distance)


def parts_of(rgb: str) -> RGB:
    """Red, green and blue of "#rrggbb", 0 to 255.

    Raises:
        ValueError: for anything else.
    """
    if len(rgb) != 7 or rgb[0] != "#":
        raise ValueError(f"{rgb!r} is no colour.")
    return int(rgb[1:3], 16), int(rgb[3:5], 16), int(rgb[5:7], 16)


def _hue(rgb: str) -> float:
    return colorsys.rgb_to_hsv(*(part / 255 for part in parts_of(rgb)))[0] * 360
