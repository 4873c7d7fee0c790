"""What names say of copies: endings that downloads and copying leave, and one song under one spelling."""

from __future__ import annotations

import re

from vinyl.core.text import fold

# "Tide (2)", "Tide 1", "Tide copy", "Tide - Copy (3)", "copy of Tide": what is added when a name is taken.
COPY_MARKS = re.compile(
    r"^copy of\s+|[\s_.-]*(\(\d{1,2}\)|[\s_]\d{1,2}|\bcopy(\s*\(?\d{1,2}\)?)?)$", re.IGNORECASE
)
# What stores and browsers put behind a name.
DOWNLOAD_MARKS = re.compile(
    r"[\s_.-]*[\[(](?=\w)(320|256|192|128)?\s*(kbps)?\s*(mp3|flac|wav|download)?[\])]$", re.IGNORECASE
)
LEAST_LETTERS = 3


def file_key(name: str) -> str:
    """A file's name without its ending and what copying leaves: equal for a file and its copies."""
    # Folded twice: some letters become capitals, others signs of a copy, only by the first.
    stem, before = fold(fold(name.rpartition(".")[0] or name)), None
    while before != stem:
        before = stem
        stem = DOWNLOAD_MARKS.sub("", COPY_MARKS.sub("", stem.strip()).strip())
    return stem.strip()


def song_key(artist: str, title: str) -> str:
    """Artist and title as one text, without spaces and signs; empty where too little is known of them."""
    letters = ["".join(filter(str.isalnum, fold(text))) for text in (artist, title)]
    return "|".join(letters) if len(letters[1]) >= LEAST_LETTERS and letters[0] else ""
