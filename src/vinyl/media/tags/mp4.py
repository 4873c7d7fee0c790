"""Reading MP4 atoms, and the free-form ones beside them."""

from __future__ import annotations

from mutagen.mp4 import MP4

from vinyl.media.tags import meaning
from vinyl.media.tags.meaning import clean, joined
from vinyl.media.tags.model import Chapter, Tags

FREEFORM = "----:com.apple.iTunes:"
CLEAN, EXPLICIT = 2, frozenset({1, 4})


def from_mp4(audio: MP4) -> Tags:
    """What the atoms of a file say, and its list of chapters."""
    free = {
        name.rpartition(":")[2].casefold(): values for name, values in audio.tags.items() if name[0] == "-"
    }

    def text(*names: str) -> str:
        for name in names:
            words = joined(_as_text(value) for value in audio.tags.get(name) or free.get(name) or ())
            if words:
                return words
        return ""

    comment, covers = text("\xa9cmt"), audio.tags.get("covr")
    return Tags(
        title=text("\xa9nam"),
        artist=text("\xa9ART"),
        album=text("\xa9alb"),
        genre=text("\xa9gen"),
        label=text("label", "publisher"),
        comment=comment,
        key=text("initialkey"),
        year=meaning.year(text("\xa9day")),
        bpm=meaning.number(text("tmpo")),
        rating=meaning.stars(text("rate", "rating")),
        remixer=text("remixer"),
        catalogue=text("catalognumber"),
        grouping=text("\xa9grp"),
        composer=text("\xa9wrt"),
        language=text("language"),
        isrc=text("isrc"),
        explicit=_explicit(audio),
        energy=meaning.energy(text("energy", "energylevel")) or meaning.energy_in(comment),
        plays=meaning.count(text("playcount")),
        gain_db=meaning.gain_db(text("replaygain_track_gain")),
        chapters=tuple(Chapter(float(each.start), title=clean(each.title)) for each in audio.chapters or ()),
        picture=bytes(covers[0]) if covers else None,
    )


def _as_text(value: object) -> str:
    return value.decode("utf-8", "replace") if isinstance(value, bytes) else str(value)


def _explicit(audio: MP4) -> bool | None:
    said = (audio.tags.get("rtng") or [0])[0]
    return True if said in EXPLICIT else False if said == CLEAN else None
