"""Reading a file's tags, of all the kinds that it carries."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import mutagen
from mutagen.aac import AAC
from mutagen.aiff import AIFF
from mutagen.apev2 import APENoHeaderError, APEv2
from mutagen.asf import ASF
from mutagen.flac import FLAC
from mutagen.id3 import ID3, ID3NoHeaderError
from mutagen.mp3 import MP3
from mutagen.mp4 import MP4
from mutagen.oggopus import OggOpus
from mutagen.oggvorbis import OggVorbis
from mutagen.wave import WAVE

from vinyl.media.tags.ape import from_ape
from vinyl.media.tags.asf import from_asf
from vinyl.media.tags.chunks import from_aiff, from_riff
from vinyl.media.tags.id3 import from_id3
from vinyl.media.tags.model import Tags, first_of
from vinyl.media.tags.mp4 import from_mp4
from vinyl.media.tags.vorbis import from_vorbis

# Of the kinds of files that mutagen knows, those whose sound can be decoded: trying all takes twice as long.
KINDS = (MP3, FLAC, MP4, WAVE, AIFF, OggVorbis, OggOpus, ASF, AAC)
# What files begin with, at which byte, and what they are then; ID3 may stand before several kinds.
MARKS = (
    (b"fLaC", 0, (FLAC,)),
    (b"OggS", 0, (OggVorbis, OggOpus)),
    (b"RIFF", 0, (WAVE,)),
    (b"FORM", 0, (AIFF,)),
    (b"ftyp", 4, (MP4,)),
)

log = logging.getLogger("vinyl.tags")


def parse(path: Path) -> mutagen.FileType | None:
    """A file as mutagen sees it, or None; what it begins with counts for more than its suffix."""
    try:
        return open_tagged(path)
    except Exception as error:  # a reader of damaged tags may raise anything
        log.info("parsing %s", path, exc_info=error)
        return None


def read_tags(path: Path, parsed: mutagen.FileType | None = None) -> Tags:
    """The tags of a file; empty where it has none. What cannot be read is told as ``problem``,
    never raised.

    Args:
        parsed: the file as ``parse`` gave it, if that was done.
    """
    found: list[Tags] = []
    problem = ""
    sources = _sources(path, parsed)
    while True:
        try:
            source = next(sources, None)
        except Exception as error:  # tags hold anything, and a reader of damaged ones may raise anything
            log.info("the tags of %s", path, exc_info=error)
            problem = f"Its tags could not be read ({type(error).__name__})."
            break
        if source is None:
            break
        found.append(source)
    return replace(first_of(found), problem=problem)


def open_tagged(path: Path) -> mutagen.FileType | None:
    with path.open("rb") as file:
        head = file.read(12)
    kinds = next((kinds for mark, at, kinds in MARKS if head[at : at + len(mark)] == mark), KINDS)
    return mutagen.File(path, kinds)


def _sources(path: Path, parsed: mutagen.FileType | None) -> Iterator[Tags]:
    """Each kind of tags that a file carries, the one that holds most first."""
    audio = open_tagged(path) if parsed is None else parsed
    if isinstance(audio, MP4):
        yield from_mp4(audio) if audio.tags is not None else Tags()
    elif isinstance(audio, FLAC | OggOpus | OggVorbis):
        yield from_vorbis(audio) if audio.tags is not None else Tags()
    elif isinstance(audio, ASF):
        yield from_asf(audio)
    elif audio is not None and isinstance(audio.tags, ID3):
        yield from_id3(audio.tags)
    yield from _beside(path, audio)


def _beside(path: Path, audio: object) -> Iterator[Tags]:
    """Other kinds that stand in the same file."""
    if isinstance(audio, WAVE):
        yield from_riff(path)
    elif isinstance(audio, AIFF):
        yield from_aiff(path)
    elif isinstance(audio, MP3):
        yield from _ape(path)
    elif isinstance(audio, FLAC):
        yield from _id3_before(path)


def _ape(path: Path) -> Iterator[Tags]:
    try:
        yield from_ape(APEv2(path))
    except APENoHeaderError:
        return


def _id3_before(path: Path) -> Iterator[Tags]:
    try:
        yield from_id3(ID3(path))
    except ID3NoHeaderError:
        return
