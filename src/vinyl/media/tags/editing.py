"""Changing some tags of a file and leaving all others as they are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from mutagen.flac import FLAC
from mutagen.id3 import (
    CHAP,
    COMM,
    CTOC,
    ID3,
    POPM,
    TALB,
    TBPM,
    TCOM,
    TCON,
    TDRC,
    TIT1,
    TIT2,
    TKEY,
    TLAN,
    TPE1,
    TPE4,
    TPUB,
    TSRC,
    TXXX,
    TYER,
    CTOCFlags,
)
from mutagen.mp4 import MP4
from mutagen.oggopus import OggOpus
from mutagen.oggvorbis import OggVorbis

from vinyl.media.errors import MediaError
from vinyl.media.tags.meaning import LIST_SEPARATOR, STAR_STEPS
from vinyl.media.tags.model import Chapter
from vinyl.media.tags.mp4 import FREEFORM
from vinyl.media.tags.reading import open_tagged
from vinyl.media.tags.vorbis import CHAPTER, OPUS_LEVEL_DB, OPUS_STEPS

UTF8, UTF16 = 3, 1
ID3_FRAMES = {
    "title": TIT2, "artist": TPE1, "remixer": TPE4, "album": TALB, "label": TPUB, "genre": TCON,
    "grouping": TIT1, "composer": TCOM, "year": TDRC, "tempo": TBPM, "key": TKEY, "isrc": TSRC,
    "language": TLAN,
}  # fmt: skip
ID3_USER = {"energy": "ENERGY", "catalogue": "CATALOGNUMBER", "gain": "REPLAYGAIN_TRACK_GAIN"}
# Under which names programs write a value; one that is there is changed, else the first is added.
VORBIS_NAMES = {
    "title": ("title",), "artist": ("artist",), "remixer": ("remixer",), "album": ("album",),
    "label": ("organization", "label", "publisher"), "genre": ("genre",), "composer": ("composer",),
    "grouping": ("grouping", "contentgroup"), "comment": ("comment", "description"),
    "year": ("date", "year"), "tempo": ("bpm", "tempo"), "key": ("initialkey", "key"), "isrc": ("isrc",),
    "language": ("language",), "energy": ("energy", "energylevel"), "stars": ("rating",),
    "catalogue": ("catalognumber", "labelno"), "gain": ("replaygain_track_gain",),
    "opus gain": ("r128_track_gain",),
}  # fmt: skip
MP4_ATOMS = {
    "title": "\xa9nam", "artist": "\xa9ART", "album": "\xa9alb", "genre": "\xa9gen", "grouping": "\xa9grp",
    "composer": "\xa9wrt", "comment": "\xa9cmt", "year": "\xa9day",
}  # fmt: skip
MP4_FREE = {
    "remixer": "REMIXER", "label": "LABEL", "catalogue": "CATALOGNUMBER", "key": "initialkey",
    "isrc": "ISRC", "language": "LANGUAGE", "energy": "ENERGY",
    "gain": "replaygain_track_gain",
}  # fmt: skip
STAR = 20
OWNER = "vinyl@localhost"
NO_TAGS = "Files of this kind hold no tags; what is known can be put into the file's name."
NO_CHAPTERS = "Marks cannot be written into files of this kind; everything else can."


def can_hold_tags(parsed: object) -> bool:
    """Whether tags can be written into a file, as mutagen sees it."""
    return (
        isinstance(parsed, MP4 | FLAC | OggOpus | OggVorbis)
        or isinstance(getattr(parsed, "tags", None), ID3)
        or type(parsed).__name__ in ("MP3", "WAVE", "AIFF")
    )


def as_held(parsed: object, field: str, text: str) -> str:
    """What a kind of file makes of a text: MP4 keeps whole tempi only."""
    return str(round(float(text))) if field == "tempo" and isinstance(parsed, MP4) else text


def edit_tags(path: Path, texts: Mapping[str, str], marks: Sequence[Chapter] | None = None) -> None:
    """Set some tags of a file, by the fields of vinyl.core.tag_form, and its marks if they are given.

    Raises:
        MediaError: if the file holds no tags, or no marks.
        mutagen.MutagenError, OSError: if it cannot be written.
    """
    audio = open_to_edit(path)
    if isinstance(audio, MP4):
        _edit_mp4(audio, texts, marks)
        audio.save()
    elif isinstance(audio.tags, ID3):
        _edit_id3(audio.tags, texts, marks)
        save_id3(audio)
    else:
        _edit_vorbis(audio.tags, texts, marks)
        audio.save()


def open_to_edit(path: Path) -> Any:
    """A file as mutagen sees it, with tags to be edited. The frames of ID3v2.3 are those that it has: brought
    to the names of 2.4 and back, dates and what programs add would be lost.

    Raises:
        MediaError: if the file holds no tags.
    """
    audio: Any = open_tagged(path)
    if audio is None or not can_hold_tags(audio):
        raise MediaError(NO_TAGS)
    if audio.tags is None:
        audio.add_tags()
    elif isinstance(audio.tags, ID3) and audio.tags.version < (2, 4):
        audio.load(path, translate=audio.tags.version < (2, 3), v2_version=3)
    return audio


def save_id3(audio: Any, **padding: Any) -> None:
    """Save a file's ID3 tags in the version that they have."""
    old = {"v2_version": 3, "v23_sep": LIST_SEPARATOR} if audio.tags.version < (2, 4) else {}
    audio.save(**padding, **old)


def write_gain(path: Path, gain_db: float) -> None:
    """Write by how many dB a track is to be raised to play at -18 LUFS (ReplayGain 2.0; in Opus as RFC 7845
    has it, to -23 LUFS).

    Raises:
        MediaError: if the file holds no tags.
        mutagen.MutagenError, OSError: if it cannot be written.
    """
    if isinstance(open_tagged(path), OggOpus):
        edit_tags(path, {"opus gain": str(round((gain_db - OPUS_LEVEL_DB) * OPUS_STEPS))})
    else:
        edit_tags(path, {"gain": f"{gain_db:+.2f} dB"})


def _edit_id3(tags: ID3, texts: Mapping[str, str], marks: Sequence[Chapter] | None) -> None:
    old = tags.version < (2, 4)
    encoding = UTF16 if old else UTF8
    for field, text in texts.items():
        if field == "comment":
            for frame in [frame for frame in tags.getall("COMM") if not frame.desc]:
                del tags[frame.HashKey]
            tags.add(COMM(encoding, "eng", "", [text]))
        elif field == "stars":
            _rate(tags, int(text))
        elif field in ID3_USER:
            set_user(tags, ID3_USER[field], text, encoding)
        elif field == "year" and old:
            tags.delall("TDRC")
            tags.add(TYER(encoding, [text]))
        else:
            tags.add(ID3_FRAMES[field](encoding, text.split(LIST_SEPARATOR)))
    if marks is not None:
        _chapters_to_id3(tags, marks, encoding)


def _rate(tags: ID3, stars: int) -> None:
    """Every rating that is there gets the same stars; counts of plays stay."""
    rating = STAR_STEPS[stars - 1] if stars else 0
    for frame in tags.getall("POPM"):
        frame.rating = rating
    for frame in tags.getall("TXXX"):
        if frame.desc.casefold() == "rating":
            frame.text = [str(stars)]
    if stars and not tags.getall("POPM"):
        tags.add(POPM(OWNER, rating))


def set_user(tags: ID3, name: str, text: str, encoding: int) -> None:
    """A free frame, under the name that is there in whatever case."""
    for frame in tags.getall("TXXX"):
        if frame.desc.casefold() == name.casefold():
            frame.text = [text]
            return
    tags.add(TXXX(encoding, name, [text]))


def _chapters_to_id3(tags: ID3, marks: Sequence[Chapter], encoding: int) -> None:
    for name in ("CHAP", "CTOC"):
        tags.delall(name)
    names = [f"mark{number}" for number in range(1, len(marks) + 1)]
    for name, mark in zip(names, marks, strict=True):
        start_ms = round(1000 * mark.start_s)
        end_ms = round(1000 * mark.end_s) if mark.end_s else start_ms
        title = [TIT2(encoding, [mark.title])] if mark.title else []
        tags.add(CHAP(name, start_ms, end_ms, 0xFFFFFFFF, 0xFFFFFFFF, title))
    if marks:
        tags.add(CTOC("marks", CTOCFlags.TOP_LEVEL | CTOCFlags.ORDERED, names, []))


def _edit_vorbis(tags: Any, texts: Mapping[str, str], marks: Sequence[Chapter] | None) -> None:
    for field, text in texts.items():
        names = VORBIS_NAMES[field]
        name = next((name for name in names if name in tags), names[0])
        tags[name] = str(STAR * int(text)) if field == "stars" else text.split(LIST_SEPARATOR)
    if marks is None:
        return
    for name in [name for name in tags.keys() if CHAPTER.match(name)]:  # noqa: SIM118 - no mapping
        del tags[name]
    for number, mark in enumerate(marks, 1):
        minutes, seconds = divmod(mark.start_s, 60)
        hours, minutes = divmod(int(minutes), 60)
        tags[f"CHAPTER{number:03d}"] = f"{hours:02d}:{minutes:02d}:{seconds:06.3f}"
        if mark.title:
            tags[f"CHAPTER{number:03d}NAME"] = mark.title


def _edit_mp4(audio: MP4, texts: Mapping[str, str], marks: Sequence[Chapter] | None) -> None:
    if marks:
        raise MediaError(NO_CHAPTERS)
    for field, text in texts.items():
        if field == "tempo":
            audio.tags["tmpo"] = [round(float(text))]
        elif field == "stars":
            audio.tags["rate"] = [str(STAR * int(text))]
        elif field in MP4_FREE:
            audio.tags[_free_name(audio, MP4_FREE[field])] = [text.encode()]
        else:
            audio.tags[MP4_ATOMS[field]] = text.split(LIST_SEPARATOR)


def _free_name(audio: MP4, name: str) -> str:
    """A free atom under the name that is there in whatever case."""
    there = (each for each in audio.tags if each.startswith("----"))
    return next(
        (each for each in there if each.rpartition(":")[2].casefold() == name.casefold()), FREEFORM + name
    )
