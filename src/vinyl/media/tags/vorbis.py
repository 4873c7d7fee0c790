"""Reading Vorbis comments, as FLAC, Ogg Vorbis and Opus carry them."""

from __future__ import annotations

import base64
import re
from collections.abc import Iterator
from typing import Any

from mutagen import MutagenError
from mutagen.flac import FLAC, Picture
from mutagen.oggopus import OggOpus

from vinyl.media.tags import meaning
from vinyl.media.tags.meaning import clean, joined
from vinyl.media.tags.model import Chapter, Tags

CHAPTER = re.compile(r"chapter(\d{2,3})", re.IGNORECASE)
CLOCK = re.compile(r"(\d+):(\d{2}):(\d{2}(?:\.\d+)?)")
# Opus files give their gain in steps of 1/256 dB, to a level 5 dB below that of ReplayGain (RFC 7845, 5.2.1).
OPUS_STEPS, OPUS_LEVEL_DB = 256, 5.0
LEAD_OUT = 170


def from_vorbis(audio: Any) -> Tags:
    """What the comments of a file say, and its cue sheet."""
    said: dict[str, list[str]] = {}
    for name, value in audio.tags:
        said.setdefault(name.casefold(), []).append(value)

    def text(*names: str) -> str:
        return next((words for name in names if name in said and (words := joined(said[name]))), "")

    comment = text("comment", "description")
    return Tags(
        title=text("title"),
        artist=text("artist"),
        album=text("album"),
        genre=text("genre"),
        label=text("organization", "label", "publisher"),
        comment=comment,
        key=text("initialkey", "key"),
        year=meaning.year(text("date", "year", "originaldate")),
        bpm=meaning.number(text("bpm", "tempo")),
        rating=meaning.stars(text("rating", "fmps_rating")),
        remixer=text("remixer"),
        catalogue=text("catalognumber", "labelno"),
        grouping=text("grouping", "contentgroup"),
        composer=text("composer"),
        language=text("language"),
        isrc=text("isrc"),
        explicit=meaning.flag(text("explicit")),
        energy=meaning.energy(text("energy", "energylevel")) or meaning.energy_in(comment),
        plays=meaning.count(text("playcount", "play_counter")),
        gain_db=_gain(audio, text("replaygain_track_gain"), text("r128_track_gain")),
        chapters=tuple(_cue_sheet(audio)) or tuple(_chapters(audio.tags)),
        picture=_picture(audio),
    )


def _gain(audio: Any, said: str, opus: str) -> float | None:
    if isinstance(audio, OggOpus) and re.fullmatch(r"[+-]?\d{1,6}", opus):
        return int(opus) / OPUS_STEPS + OPUS_LEVEL_DB
    return meaning.gain_db(said)


def _picture(audio: Any) -> bytes | None:
    if isinstance(audio, FLAC):
        pictures = sorted(audio.pictures, key=lambda picture: picture.type != 3)
        return bytes(pictures[0].data) if pictures else None
    for block in audio.tags.get("metadata_block_picture", []):
        try:
            data: bytes = Picture(base64.b64decode(block)).data
        except (ValueError, MutagenError):
            continue
        return data
    return None


def _chapters(tags: Any) -> Iterator[Chapter]:
    """CHAPTER001=00:01:02.500 with its CHAPTER001NAME, in order."""
    for name, _ in sorted(set(tags)):
        number, clock = CHAPTER.fullmatch(name), CLOCK.fullmatch(tags.get(name, [""])[0].strip())
        if number and clock:
            hours, minutes, seconds = clock.groups()
            start_s = 3600 * int(hours) + 60 * int(minutes) + float(seconds)
            yield Chapter(start_s, title=clean(tags.get(f"{name}name", [""])[0]))


def _cue_sheet(audio: Any) -> Iterator[Chapter]:
    """A FLAC file's own cue sheet: the tracks on the disc that it was, in samples."""
    sheet = audio.cuesheet if isinstance(audio, FLAC) else None
    for track in sheet.tracks if sheet else ():
        if track.track_number < LEAD_OUT:
            first = next((index.index_offset for index in track.indexes if index.index_number == 1), 0)
            yield Chapter(
                (track.start_offset + first) / audio.info.sample_rate, title=f"{track.track_number}"
            )
