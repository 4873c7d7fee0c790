"""Sleeve pictures, made small."""

from __future__ import annotations

import io

from PIL import Image

from vinyl.media.errors import MediaError

FORMATS = ("JPEG", "PNG", "GIF", "WEBP", "BMP")
MOST_PIXELS = 60_000_000
QUALITY = 85


class PictureError(MediaError):
    """A picture that cannot be used."""


def small_jpeg(data: bytes, pixels: int) -> bytes:
    """A picture as JPEG of at most so many pixels a side.

    Raises:
        PictureError: if it is of no known kind, too large, or damaged.
    """
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as image:
            if image.width * image.height > MOST_PIXELS:
                raise PictureError(f"The picture is too large: {image.width} by {image.height} pixels.")
            image.draft("RGB", (pixels, pixels))
            image.thumbnail((pixels, pixels))
            buffer = io.BytesIO()
            image.convert("RGB").save(buffer, "JPEG", quality=QUALITY)
    except PictureError:
        raise
    except Exception as error:  # a decoder of damaged data may raise anything
        raise PictureError("The picture is damaged, or of a kind that Vinyl does not know.") from error
    return buffer.getvalue()
