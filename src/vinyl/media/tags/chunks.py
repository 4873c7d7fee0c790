"""Reading what WAV and AIFF files say outside of ID3: text chunks, cue points and sample loops."""

from __future__ import annotations

import struct
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from vinyl.media.tags import meaning
from vinyl.media.tags.meaning import clean
from vinyl.media.tags.model import Chapter, Tags

# Larger chunks hold no text; their data is passed over.
LARGEST = 1 << 20
RIFF_TEXTS = {
    b"INAM": "title", b"IART": "artist", b"IPRD": "album", b"IGNR": "genre", b"ICMT": "comment",
    b"ICRD": "year", b"IPUB": "label", b"IMUS": "composer", b"ILNG": "language", b"IBPM": "bpm",
    b"ISRC": "isrc",
}  # fmt: skip
AIFF_TEXTS = {b"NAME": "title", b"AUTH": "artist", b"ANNO": "comment"}
# Parts of chunks: a cue point's number and place in samples; a loop's number, kind, start and end.
CUE_POINT, SAMPLE_LOOP = struct.Struct("<I16xI"), struct.Struct("<IIII8x")
CUE_HEAD, SAMPLER_HEAD = 4, 36


@dataclass(slots=True)
class _Found:
    texts: dict[str, str]
    points: dict[int, int]
    labels: dict[int, str]
    loops: list[tuple[int, int, int]]
    rate_hz: int = 0


def from_riff(path: Path) -> Tags:
    """The INFO list, cue points with their labels, and sample loops of a WAV file."""
    found = _Found({}, {}, {}, [])
    read: dict[bytes, Callable[[bytes], None]] = {
        b"fmt ": lambda data: _format(found, data),
        b"cue ": lambda data: _cue_points(found, data),
        b"smpl": lambda data: _loops(found, data),
        b"LIST": lambda data: _list(found, data),
    }
    for name, data in _chunks(path, "<", (b"RIFF", b"RF64")):
        if name in read:
            read[name](data)
    return _tags(found.texts, _chapters(found))


def from_aiff(path: Path) -> Tags:
    """Name, author and annotation of an AIFF file."""
    texts = {
        AIFF_TEXTS[name]: _text(data) for name, data in _chunks(path, ">", (b"FORM",)) if name in AIFF_TEXTS
    }
    return _tags(texts, ())


def _tags(texts: dict[str, str], chapters: tuple[Chapter, ...]) -> Tags:
    numbers = {"year": meaning.year(texts.pop("year", "")), "bpm": meaning.number(texts.pop("bpm", ""))}
    return Tags(**texts, **numbers, chapters=chapters, energy=meaning.energy_in(texts.get("comment", "")))  # type: ignore[arg-type]


def _chunks(path: Path, order: str, heads: tuple[bytes, ...]) -> Iterator[tuple[bytes, bytes]]:
    """Name and data of the chunks that are small enough to hold text, in a file of this kind."""
    size_of = struct.Struct(f"{order}I")
    with path.open("rb") as file:
        if file.read(12)[:4] not in heads:
            return
        while len(head := file.read(8)) == 8:
            (size,) = size_of.unpack(head[4:])
            if size <= LARGEST:
                yield head[:4], file.read(size)
                file.seek(size % 2, 1)
            else:
                file.seek(size + size % 2, 1)


def _text(data: bytes) -> str:
    """Text up to its zero, in UTF-8 or else in Latin-1."""
    text = data.split(b"\x00", 1)[0]
    try:
        return clean(text.decode("utf-8"))
    except UnicodeDecodeError:
        return clean(text.decode("latin-1"))


def _format(found: _Found, data: bytes) -> None:
    if len(data) >= 8:
        (found.rate_hz,) = struct.unpack_from("<I", data, 4)


def _cue_points(found: _Found, data: bytes) -> None:
    whole = (len(data) - CUE_HEAD) // CUE_POINT.size * CUE_POINT.size
    found.points.update(CUE_POINT.iter_unpack(data[CUE_HEAD : CUE_HEAD + max(whole, 0)]))


def _loops(found: _Found, data: bytes) -> None:
    body = data[SAMPLER_HEAD:]
    whole = len(body) // SAMPLE_LOOP.size * SAMPLE_LOOP.size
    for number, _, start, end in SAMPLE_LOOP.iter_unpack(body[:whole]):
        if end > start:
            found.loops.append((number, start, end + 1))


def _list(found: _Found, data: bytes) -> None:
    """A list of texts, or of labels that belong to cue points."""
    kind, at = data[:4], 4
    while at + 8 <= len(data):
        name, (size,) = data[at : at + 4], struct.unpack_from("<I", data, at + 4)
        body = data[at + 8 : at + 8 + size]
        if kind == b"INFO" and name in RIFF_TEXTS:
            found.texts.setdefault(RIFF_TEXTS[name], _text(body))
        elif kind == b"adtl" and name == b"labl" and len(body) >= 4:
            found.labels[struct.unpack_from("<I", body)[0]] = _text(body[4:])
        at += 8 + size + size % 2


def _chapters(found: _Found) -> tuple[Chapter, ...]:
    if not found.rate_hz:
        return ()
    looped = {start for _, start, _ in found.loops}
    marks = [
        Chapter(start / found.rate_hz, end / found.rate_hz, found.labels.get(number, ""), loops=True)
        for number, start, end in found.loops
    ]
    marks += [
        Chapter(sample / found.rate_hz, title=found.labels.get(number, ""))
        for number, sample in found.points.items()
        if sample not in looped
    ]
    return tuple(sorted(marks, key=lambda mark: mark.start_s))
