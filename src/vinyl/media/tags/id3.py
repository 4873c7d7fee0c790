"""Reading ID3 tags of all versions: as mutagen gives them, which brings older ones to the names of 2.4."""

from __future__ import annotations

from mutagen.id3 import ID3

from vinyl.media.tags import meaning
from vinyl.media.tags.meaning import clean, joined
from vinyl.media.tags.model import Chapter, Tags

NO_END = 0xFFFFFFFF


def from_id3(tags: ID3) -> Tags:
    """What ID3 frames say."""
    free: dict[str, str] = {}
    for frame in tags.getall("TXXX"):
        free[frame.desc.casefold()] = free.get(frame.desc.casefold()) or joined(frame.text)

    def text(*names: str) -> str:
        frames = (tags.get(name) for name in names)
        return next((words for frame in frames if frame is not None and (words := joined(frame.text))), "")

    def user(*names: str) -> str:
        """Free frames, whose names are written in any case."""
        return next((words for name in names if (words := free.get(name.casefold(), ""))), "")

    comment = _comment(tags)
    popularity = [frame for frame in tags.getall("POPM") if frame.rating]
    return Tags(
        title=text("TIT2"),
        artist=text("TPE1"),
        album=text("TALB"),
        genre=joined(tags["TCON"].genres) if "TCON" in tags else "",
        label=text("TPUB") or user("LABEL"),
        comment=comment,
        key=text("TKEY") or user("INITIALKEY"),
        year=meaning.year(text("TDRC", "TDRL", "TDOR")),
        bpm=meaning.number(text("TBPM")),
        rating=meaning.stars_of_popm(popularity[0].rating) if popularity else meaning.stars(user("RATING")),
        remixer=text("TPE4"),
        catalogue=user("CATALOGNUMBER", "CATALOGID"),
        grouping=text("TIT1", "GRP1"),
        composer=text("TCOM"),
        language=text("TLAN"),
        isrc=text("TSRC"),
        explicit=meaning.flag(user("EXPLICIT")),
        energy=meaning.energy(user("ENERGY", "ENERGYLEVEL")) or meaning.energy_in(comment),
        plays=_plays(tags),
        gain_db=_gain(tags, user("REPLAYGAIN_TRACK_GAIN")),
        chapters=_chapters(tags),
        picture=_picture(tags),
    )


def _comment(tags: ID3) -> str:
    """The comment without a name of its own; others hold what programs keep for themselves."""
    return next((joined(frame.text) for frame in tags.getall("COMM") if not frame.desc), "")


def _plays(tags: ID3) -> int | None:
    counts = [
        frame.count for frame in (*tags.getall("PCNT"), *tags.getall("POPM")) if getattr(frame, "count", 0)
    ]
    return max(counts) if counts else None


def _gain(tags: ID3, said: str) -> float | None:
    if said:
        return meaning.gain_db(said)
    frames = [frame for frame in tags.getall("RVA2") if frame.desc.casefold() == "track"]
    return float(frames[0].gain) if frames else None


def _picture(tags: ID3) -> bytes | None:
    """The front cover if one is named so, else the first picture."""
    frames = sorted(tags.getall("APIC"), key=lambda frame: frame.type != 3)
    return bytes(frames[0].data) if frames else None


def _chapters(tags: ID3) -> tuple[Chapter, ...]:
    """CHAP frames in order of time; their times are milliseconds."""
    frames = sorted(tags.getall("CHAP"), key=lambda frame: int(frame.start_time))
    return tuple(
        Chapter(
            frame.start_time / 1000,
            frame.end_time / 1000 if frame.start_time < frame.end_time != NO_END else None,
            clean(str(frame.sub_frames["TIT2"])) if "TIT2" in frame.sub_frames else "",
        )
        for frame in frames
    )
