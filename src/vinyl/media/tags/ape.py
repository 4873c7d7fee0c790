"""Reading APEv2 tags, which also stand at the end of MP3 files."""

from __future__ import annotations

from mutagen.apev2 import BINARY, APEv2

from vinyl.media.tags import meaning
from vinyl.media.tags.meaning import joined
from vinyl.media.tags.model import Tags


def from_ape(tags: APEv2) -> Tags:
    """What the items say; their names are written in any case."""

    def text(*names: str) -> str:
        items = (tags.get(name) for name in names)
        return next((joined(item) for item in items if item is not None and item.kind != BINARY), "")

    comment = text("Comment")
    return Tags(
        title=text("Title"),
        artist=text("Artist"),
        album=text("Album"),
        genre=text("Genre"),
        label=text("Label", "Publisher"),
        comment=comment,
        key=text("InitialKey", "Key"),
        year=meaning.year(text("Year", "Record Date")),
        bpm=meaning.number(text("BPM")),
        rating=meaning.stars(text("Rating")),
        remixer=text("MixArtist", "Remixer"),
        catalogue=text("CatalogNumber", "Catalog"),
        grouping=text("Grouping"),
        composer=text("Composer"),
        language=text("Language"),
        isrc=text("ISRC"),
        explicit=meaning.flag(text("Explicit")),
        energy=meaning.energy(text("Energy", "EnergyLevel")) or meaning.energy_in(comment),
        plays=meaning.count(text("PlayCount", "Play Counter")),
        gain_db=meaning.gain_db(text("Replaygain_Track_Gain")),
        picture=_picture(tags),
    )


def _picture(tags: APEv2) -> bytes | None:
    """The cover, which follows a file name and a zero."""
    item = tags.get("Cover Art (Front)")
    if item is None or item.kind != BINARY:
        return None
    _, _, data = bytes(item.value).partition(b"\x00")
    return data or None
