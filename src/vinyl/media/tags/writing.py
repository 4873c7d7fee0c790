"""Writing tags into files, as the demo collection and its copies need them."""

from __future__ import annotations

import base64
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import mutagen
from mutagen.flac import FLAC, Picture
from mutagen.id3 import APIC, COMM, ID3, POPM, TALB, TBPM, TCON, TDRC, TIT2, TKEY, TPE1, TPUB
from mutagen.mp4 import MP4, MP4Cover
from mutagen.oggopus import OggOpus
from mutagen.oggvorbis import OggVorbis

from vinyl.media.errors import MediaError
from vinyl.media.tags.meaning import STAR_STEPS
from vinyl.media.tags.model import Tags
from vinyl.media.tags.mp4 import FREEFORM


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
