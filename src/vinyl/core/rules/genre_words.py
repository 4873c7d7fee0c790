"""Words for styles as files write them: taking them apart, and telling which spellings are one."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

from vinyl.core.text import fold

BETWEEN = re.compile(r"\s*[;,/|\\]\s*|\x00")
# Ways to write "and" between two words of one style.
AND = re.compile(r"\s*(&|\+|\band\b|\bn\b|['’`]n['’`])\s*")
NOT_LETTER = re.compile(r"[\W_]+")


@dataclass(frozen=True, slots=True)
class Style:
    """A style with all its spellings, the commonest first, and how many tracks have each."""

    name: str
    spellings: dict[str, int]


def genre_words(genre: str) -> list[str]:
    """The words of a genre tag, each once: "House; Disco" has two."""
    return list(dict.fromkeys(word for word in BETWEEN.split(genre.strip()) if word))


def spelling_key(word: str) -> str:
    """What all spellings of a style have in common: "Drum & Bass", "drum and bass", "Drum'n'Bass"."""
    return NOT_LETTER.sub("", AND.sub("&", fold(word)).replace("&", "and"))


def styles_of(genres: Mapping[str, int]) -> list[Style]:
    """The styles in genre tags, the most used first.

    Args:
        genres: how many tracks have each whole tag.
    """
    alike: dict[str, dict[str, int]] = defaultdict(lambda: defaultdict(int))
    for genre, tracks in genres.items():
        for word in genre_words(genre):
            alike[spelling_key(word)][word] += tracks
    styles = [_style(spellings) for key, spellings in alike.items() if key]
    return sorted(styles, key=lambda style: (-sum(style.spellings.values()), style.name))


def _style(spellings: Mapping[str, int]) -> Style:
    ordered = dict(sorted(spellings.items(), key=lambda item: (-item[1], item[0])))
    return Style(next(iter(ordered)), ordered)
