"""What is written into a file's tags: which values, and in which form.

What is not known is never written, so that no tag is lost by it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from vinyl.core.tonal.key import Notation, parse_key

Part = Literal["key", "tempo", "energy"]
CommentPlace = Literal["replace", "before", "after"]
TagField = Literal[
    "title", "artist", "remixer", "album", "label", "catalogue", "genre", "grouping", "composer", "language",
    "isrc", "comment", "year", "stars", "energy", "key", "tempo",
]  # fmt: skip
TAG_FIELDS: tuple[TagField, ...] = get_args(TagField)
PARTS: tuple[Part, ...] = get_args(Part)
SEPARATOR = " · "
TEMPO = re.compile(r"\d{2,3}(\.\d{1,2})? BPM")
ENERGY = re.compile(r"Energy \d{1,3}|E\d{1,3}")
# In a file name: what a drive or a system does not take.
NOT_IN_NAMES = re.compile(r'[\x00-\x1f\x7f<>:"/\\|?*]+')
PLACEHOLDER = re.compile(r"\{(\w+)\}")
# In bytes of UTF-8; with a suffix and a mark for what is not whole yet, every file system takes it.
LONGEST_NAME = 200


@dataclass(frozen=True, slots=True)
class WriteForm:
    """How tags are to be written.

    ``results`` go into the comment, replacing what stands in it or before or after it. ``energy_word`` puts a
    word before its number there. ``cues`` are written as chapters.
    """

    fields: frozenset[TagField] = frozenset()
    notation: Notation = "name"
    tempo_digits: int = 2
    results: tuple[Part, ...] = ()
    results_place: CommentPlace = "before"
    energy_word: bool = True
    cues: bool = False


def texts_to_write(
    form: WriteForm, values: Mapping[TagField, str], comment_there: str
) -> dict[TagField, str]:
    """The text of each tag that is to be written.

    Args:
        values: what the library says of a track, by field; what it does not know is left out.
        comment_there: the comment that the file has.
    """
    known = {**values, **_formed(form, values)}
    texts = {field: known[field] for field in TAG_FIELDS if field in form.fields and known.get(field)}
    results = SEPARATOR.join(words for part in form.results if (words := _result(form, part, known)))
    if results:
        own = without_results(texts.get("comment", comment_there))
        parts = {"replace": (results,), "before": (results, own), "after": (own, results)}
        texts["comment"] = SEPARATOR.join(filter(None, parts[form.results_place]))
    return texts


def without_results(comment: str) -> str:
    """A comment without results that were written into it before."""
    return SEPARATOR.join(part for part in comment.split(SEPARATOR) if not _is_result(part))


def file_name(pattern: str, values: Mapping[TagField, str], form: WriteForm) -> str:
    """A file's name (without suffix) by a pattern such as "{artist} - {title}"; what is not known falls away
    with the marks around it.
    """
    by_name = {str(field): text for field, text in {**values, **_formed(form, values)}.items()}
    text = PLACEHOLDER.sub(lambda found: by_name.get(found[1], ""), pattern)
    text = NOT_IN_NAMES.sub("-", text)
    text = re.sub(r"\(\s*\)|\[\s*\]", "", text)
    text = re.sub(r"(\s+-)+(?=\s+-|\s*$)|^(\s*-\s+)+", "", text)
    short = " ".join(text.split()).strip(" .").encode()[:LONGEST_NAME]
    return short.decode(errors="ignore").strip(" .")


def unknown_placeholders(pattern: str) -> list[str]:
    """Names in a pattern that stand for nothing."""
    return [name for name in PLACEHOLDER.findall(pattern) if name not in TAG_FIELDS]


def _formed(form: WriteForm, values: Mapping[TagField, str]) -> dict[TagField, str]:
    """Key and tempo as the form has them."""
    formed: dict[TagField, str] = {}
    if values.get("tempo"):
        formed["tempo"] = f"{float(values['tempo']):.{form.tempo_digits}f}"
    if values.get("key"):
        try:
            formed["key"] = parse_key(values["key"]).written(form.notation)
        except ValueError:  # a file's own key may be anything; it stays as it is
            formed["key"] = values["key"]
    return formed


def _result(form: WriteForm, part: Part, known: Mapping[TagField, str]) -> str:
    text = known.get(part, "")
    if text and part == "tempo":
        return f"{text} BPM"
    if text and part == "energy":
        return f"Energy {text}" if form.energy_word else f"E{text}"
    return text


def _is_result(part: str) -> bool:
    if TEMPO.fullmatch(part) or ENERGY.fullmatch(part):
        return True
    try:
        parse_key(part)
    except ValueError:
        return False
    return True


def as_parts(parts: Iterable[Part]) -> tuple[Part, ...]:
    """Parts in their usual order, each once."""
    wanted = set(parts)
    return tuple(part for part in PARTS if part in wanted)
