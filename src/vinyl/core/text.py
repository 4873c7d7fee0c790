"""Text as it is compared: without case and accents."""

from __future__ import annotations

import re
import unicodedata

NOT_WORD = re.compile(r"[\W_]+")


def fold(text: str) -> str:
    """Text without case and accents, for finding."""
    if text.isascii():
        return text.casefold()
    decomposed = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in decomposed if not unicodedata.combining(c))


def words_of(folded: str) -> list[str]:
    """The different words of a folded text, in order."""
    return list(dict.fromkeys(word for word in NOT_WORD.split(folded) if word))
