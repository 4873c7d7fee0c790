"""Text as it is compared: without case and accents."""

from __future__ import annotations

import unicodedata


def fold(text: str) -> str:
    """Text without case and accents, for finding."""
    if text.isascii():
        return text.casefold()
    decomposed = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in decomposed if not unicodedata.combining(c))
