"""Reading the attributes of ASF (WMA) files."""

from __future__ import annotations

from mutagen.asf import ASF

from vinyl.media.tags import meaning
from vinyl.media.tags.meaning import joined
from vinyl.media.tags.model import Tags


def from_asf(audio: ASF) -> Tags:
    """What the attributes say."""

    def text(*names: str) -> str:
        return next((words for name in names if (words := joined(audio.tags.get(name, [])))), "")

    comment = text("Description")
    return Tags(
        title=text("Title"),
        artist=text("Author"),
        album=text("WM/AlbumTitle"),
        genre=text("WM/Genre"),
        label=text("WM/Publisher"),
        comment=comment,
        key=text("WM/InitialKey"),
        year=meaning.year(text("WM/Year")),
        bpm=meaning.number(text("WM/BeatsPerMinute")),
        remixer=text("WM/ModifiedBy"),
        catalogue=text("WM/CatalogNo"),
        grouping=text("WM/ContentGroupDescription"),
        composer=text("WM/Composer"),
        language=text("WM/Language"),
        isrc=text("WM/ISRC"),
        energy=meaning.energy_in(comment),
        gain_db=meaning.gain_db(text("REPLAYGAIN_TRACK_GAIN")),
    )
