"""Reading and writing the tags that open tag standards carry: ID3, Vorbis comments and MP4 atoms."""

from __future__ import annotations

import base64
import logging
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import mutagen
from mutagen.flac import FLAC, Picture
from mutagen.id3 import APIC, COMM, ID3, POPM, TALB, TBPM, TCON, TDRC, TIT2, TKEY, TPE1, TPUB
from mutagen.mp4 import MP4, MP4Cover
from mutagen.oggopus import OggOpus
from mutagen.oggvorbis import OggVorbis

from vinyl.media.errors import MediaError

log = logging.getLogger("vinyl.tags")

STAR_STEPS = (1, 64, 128, 196, 255)
FREEFORM = "----:com.apple.iTunes:"


@dataclass(frozen=True, slots=True)
class Tags:
    """What a file says of itself. ``rating`` is 0 (none) to 5 stars; missing text is empty."""

    title: str = ""
    artist: str = ""
    album: str = ""
    genre: str = ""
    label: str = ""
    comment: str = ""
    key: str = ""
    year: int | None = None
    bpm: float | None = None
    rating: int = 0
    picture: bytes | None = field(default=None, repr=False)
    problem: str = field(default="", compare=False)


def read_tags(path: Path) -> Tags:
    """The tags of a file; empty where it has none. What cannot be read is told as ``problem``,
    never raised."""
    try:
        return _read(path)
    except Exception as error:  # tags hold anything, and a reader of damaged ones may raise anything
        log.info("the tags of %s", path, exc_info=error)
        return Tags(problem=f"Its tags could not be read ({type(error).__name__}).")


def _read(path: Path) -> Tags:
    audio = mutagen.File(path)
    if audio is None or audio.tags is None:
        return Tags()
    if isinstance(audio, MP4):
        return _from_mp4(audio)
    if isinstance(audio, FLAC | OggOpus | OggVorbis):
        return _from_vorbis(audio)
    return _from_id3(audio.tags) if isinstance(audio.tags, ID3) else Tags()


def write_tags(path: Path, tags: Tags) -> None:
    """Write tags into a file, replacing those of the same meaning.

    Raises:
        MediaError: if the format holds no tags.
    """
    audio = mutagen.File(path)
    if audio is None:
        raise MediaError(f"{path.name} is of a kind that cannot hold tags.")
    if audio.tags is None:
        audio.add_tags()
    if isinstance(audio, MP4):
        _to_mp4(audio, tags)
    elif isinstance(audio, FLAC | OggOpus | OggVorbis):
        _to_vorbis(audio, tags)
    elif isinstance(audio.tags, ID3):
        _to_id3(audio.tags, tags)
    else:
        raise MediaError(f"{path.name} is of a kind that cannot hold tags.")
    audio.save()


def _from_id3(tags: ID3) -> Tags:
    def text(name: str) -> str:
        frame = tags.get(name)
        return _clean("/".join(str(part) for part in frame.text)) if frame is not None else ""

    comments = [frame for frame in tags.getall("COMM") if not frame.desc]
    pictures = tags.getall("APIC")
    return Tags(
        title=text("TIT2"),
        artist=text("TPE1"),
        album=text("TALB"),
        genre=text("TCON"),
        label=text("TPUB"),
        comment=_clean("/".join(comments[0].text)) if comments else "",
        key=text("TKEY"),
        year=_year(text("TDRC")),
        bpm=_number(text("TBPM")),
        rating=_id3_rating(tags),
        picture=pictures[0].data if pictures else None,
    )


def _id3_rating(tags: ID3) -> int:
    ratings = [frame.rating for frame in tags.getall("POPM") if frame.rating]
    return sum(ratings[0] >= step for step in STAR_STEPS) if ratings else 0


def _from_vorbis(audio: Any) -> Tags:
    def text(name: str) -> str:
        return _clean("; ".join(audio.tags.get(name, [])))

    return Tags(
        title=text("title"),
        artist=text("artist"),
        album=text("album"),
        genre=text("genre"),
        label=text("organization") or text("label"),
        comment=text("comment") or text("description"),
        key=text("initialkey"),
        year=_year(text("date")),
        bpm=_number(text("bpm")),
        rating=_vorbis_rating(text("rating")),
        picture=_vorbis_picture(audio),
    )


def _vorbis_rating(text: str) -> int:
    """Written as 0 to 1, 1 to 5 or 0 to 100 by different programs."""
    value = _number(text) or 0.0
    if value <= 1.0 and "." in text:
        value *= 5
    elif value > 5:
        value /= 20
    return max(0, min(5, round(value)))


def _vorbis_picture(audio: Any) -> bytes | None:
    if isinstance(audio, FLAC):
        return audio.pictures[0].data if audio.pictures else None
    for block in audio.tags.get("metadata_block_picture", []):
        try:
            data: bytes = Picture(base64.b64decode(block)).data
        except (ValueError, mutagen.MutagenError):
            continue
        return data
    return None


def _from_mp4(audio: MP4) -> Tags:
    def text(name: str) -> str:
        value = audio.tags.get(name, [""])[0]
        return _clean(value.decode("utf-8", "replace") if isinstance(value, bytes) else str(value))

    covers = audio.tags.get("covr") or [None]
    return Tags(
        title=text("\xa9nam"),
        artist=text("\xa9ART"),
        album=text("\xa9alb"),
        genre=text("\xa9gen"),
        label=text(FREEFORM + "LABEL"),
        comment=text("\xa9cmt"),
        key=text(FREEFORM + "initialkey"),
        year=_year(text("\xa9day")),
        bpm=_number(text("tmpo")),
        rating=_vorbis_rating(text("rate")),
        picture=bytes(covers[0]) if covers[0] else None,
    )


def _to_id3(tags: ID3, new: Tags) -> None:
    frames: Mapping[str, Callable[[str], Any]] = {
        "title": lambda v: TIT2(3, [v]),
        "artist": lambda v: TPE1(3, [v]),
        "album": lambda v: TALB(3, [v]),
        "genre": lambda v: TCON(3, [v]),
        "label": lambda v: TPUB(3, [v]),
        "comment": lambda v: COMM(3, "eng", "", [v]),
        "key": lambda v: TKEY(3, [v]),
        "year": lambda v: TDRC(3, [v]),
        "bpm": lambda v: TBPM(3, [v]),
    }
    for name, frame in frames.items():
        if getattr(new, name):
            tags.add(frame(str(getattr(new, name))))
    if new.rating:
        tags.add(POPM("vinyl@localhost", STAR_STEPS[new.rating - 1], 0))
    if new.picture:
        tags.add(APIC(3, "image/jpeg", 3, "", new.picture))


def _to_vorbis(audio: Any, new: Tags) -> None:
    names = {
        "title": "title",
        "artist": "artist",
        "album": "album",
        "genre": "genre",
        "label": "organization",
        "comment": "comment",
        "key": "initialkey",
        "year": "date",
        "bpm": "bpm",
    }
    for name, field_name in names.items():
        if getattr(new, name):
            audio.tags[field_name] = str(getattr(new, name))
    if new.rating:
        audio.tags["rating"] = str(new.rating * 20)
    if new.picture:
        picture = Picture()
        picture.data, picture.type, picture.mime = new.picture, 3, "image/jpeg"
        if isinstance(audio, FLAC):
            audio.add_picture(picture)
        else:
            audio.tags["metadata_block_picture"] = base64.b64encode(picture.write()).decode("ascii")


def _to_mp4(audio: MP4, new: Tags) -> None:
    names = {
        "title": "\xa9nam",
        "artist": "\xa9ART",
        "album": "\xa9alb",
        "genre": "\xa9gen",
        "comment": "\xa9cmt",
        "year": "\xa9day",
    }
    for name, atom in names.items():
        if getattr(new, name):
            audio.tags[atom] = [str(getattr(new, name))]
    for name, atom in (("label", "LABEL"), ("key", "initialkey")):
        if getattr(new, name):
            audio.tags[FREEFORM + atom] = [getattr(new, name).encode()]
    if new.bpm:
        audio.tags["tmpo"] = [round(new.bpm)]
    if new.rating:
        audio.tags["rate"] = [str(new.rating * 20)]
    if new.picture:
        audio.tags["covr"] = [MP4Cover(new.picture, MP4Cover.FORMAT_JPEG)]


def _clean(text: str) -> str:
    return " ".join(text.replace("\x00", " ").split())


def _number(text: str) -> float | None:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        return None
    return value if 0 < value < 10000 else None


def _year(text: str) -> int | None:
    """The year a date begins with; only plain digits count, not those that are superscripts or in circles."""
    digits = text[:4]
    return int(digits) if len(digits) == 4 and digits.isdecimal() else None
