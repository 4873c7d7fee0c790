"""Sleeve pictures, made small."""

from __future__ import annotations

import io

from PIL import Image, UnidentifiedImageError


def small_jpeg(data: bytes, pixels: int) -> bytes | None:
    """A picture as JPEG of at most so many pixels a side; None if it cannot be read."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            image.thumbnail((pixels, pixels))
            buffer = io.BytesIO()
            image.convert("RGB").save(buffer, "JPEG", quality=85)
    except (UnidentifiedImageError, OSError, Image.DecompressionBombError):
        return None
    return buffer.getvalue()
