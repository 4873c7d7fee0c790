"""Tags of every kind and age, as other programs write them: what stands in them is what is read."""

from __future__ import annotations

import struct
from collections.abc import Callable
from pathlib import Path

import pytest
from mutagen.aiff import AIFF
from mutagen.apev2 import APEv2
from mutagen.flac import FLAC, CueSheet, CueSheetTrack, CueSheetTrackIndex
from mutagen.id3 import (
    CHAP,
    COMM,
    ID3,
    PCNT,
    POPM,
    RVA2,
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
)
from mutagen.mp4 import MP4
from mutagen.oggopus import OggOpus

from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.tags import Chapter, Tags, read_tags
from vinyl.media.tags.meaning import energy_in, gain_db, stars

FULL = Tags(
    title="Nattlinje",
    artist="Ilva Dune; Brine Social",
    album="Slow Water",
    genre="House; Dub",
    label="Pierhead",
    comment="late, Energy 7",
    key="F#m",
    year=2019,
    bpm=124.5,
    rating=4,
    remixer="Tern Logic",
    catalogue="PIER 012",
    grouping="warm-up",
    composer="I. Dune",
    language="nor",
    isrc="QZABC1900012",
    explicit=True,
    energy=70,
    plays=12,
    gain_db=-6.7,
)
MARKS = (Chapter(1.5, title="In"), Chapter(4.0, title="Drop"))


@pytest.fixture(scope="module")
def sound(tmp_path_factory: pytest.TempPathFactory) -> dict[str, bytes]:
    """Six seconds in each format, without tags."""
    folder = tmp_path_factory.mktemp("sound")
    made = {}
    for form, kind in ENCODINGS.items():
        path = folder / f"plain{kind.suffix}"
        encode(drum_loop(120.0, 0.25, 6.0), RATE_HZ, path, form)
        made[form] = path.read_bytes()
    return made


def id3_frames() -> ID3:
    tags = ID3()
    for frame in (
        TIT2(3, ["Nattlinje"]), TPE1(3, ["Ilva Dune", "Brine Social"]), TALB(3, ["Slow Water"]),
        TCON(3, ["House", "Dub"]), TPUB(3, ["Pierhead"]), COMM(3, "eng", "", ["late, Energy 7"]),
        COMM(3, "eng", "kept by a program", ["ID3v1 Comment"]), TKEY(3, ["F#m"]), TDRC(3, ["2019-04-02"]),
        TBPM(3, ["124.5"]), POPM("somebody@example.org", 196, count=12), PCNT(3), TPE4(3, ["Tern Logic"]),
        TXXX(3, "CatalogNumber", ["PIER 012"]), TIT1(3, ["warm-up"]), TCOM(3, ["I. Dune"]),
        TLAN(3, ["nor"]), TSRC(3, ["QZABC1900012"]), TXXX(3, "EXPLICIT", ["1"]),
        TXXX(3, "replaygain_track_gain", ["-6.70 dB"]),
    ):  # fmt: skip
        tags.add(frame)
    return tags


def with_id3(path: Path, version: int) -> None:
    tags = id3_frames()
    if version == 3:
        tags.update_to_v23()
    tags.save(path, v2_version=version)


def with_chapters(path: Path) -> None:
    tags = id3_frames()
    for number, mark in enumerate(reversed(MARKS)):  # written out of order
        title = [TIT2(3, [mark.title])]
        start = int(1000 * mark.start_s)
        tags.add(CHAP(element_id=f"c{number}", start_time=start, end_time=start, sub_frames=title))
    tags.save(path)


def with_vorbis(path: Path) -> None:
    audio = FLAC(path) if path.suffix == ".flac" else OggOpus(path)
    audio.tags or audio.add_tags()
    audio.tags.update(
        {
            "TITLE": ["Nattlinje"], "ARTIST": ["Ilva Dune", "Brine Social"], "ALBUM": ["Slow Water"],
            "GENRE": ["House", "Dub"], "LABEL": ["Pierhead"], "COMMENT": ["late, Energy 7"], "KEY": ["F#m"],
            "DATE": ["2019"], "BPM": ["124,5"], "RATING": ["80"], "REMIXER": ["Tern Logic"],
            "CATALOGNUMBER": ["PIER 012"], "GROUPING": ["warm-up"], "COMPOSER": ["I. Dune"],
            "LANGUAGE": ["nor"], "ISRC": ["QZABC1900012"], "EXPLICIT": ["yes"], "PLAYCOUNT": ["12"],
            "CHAPTER001": ["00:00:01.500"], "CHAPTER001NAME": ["In"],
            "CHAPTER002": ["00:00:04.000"], "CHAPTER002NAME": ["Drop"],
        }
    )  # fmt: skip
    # To a level 5 dB lower, in steps of 1/256 dB: -11.7 dB.
    opus = isinstance(audio, OggOpus)
    audio.tags.update({"R128_TRACK_GAIN": ["-2995"]} if opus else {"REPLAYGAIN_TRACK_GAIN": ["-6.7 dB"]})
    audio.save()


def with_mp4(path: Path) -> None:
    audio = MP4(path)
    audio.tags or audio.add_tags()
    free = "----:com.apple.iTunes:"
    audio.tags.update(
        {
            "\xa9nam": ["Nattlinje"], "\xa9ART": ["Ilva Dune", "Brine Social"], "\xa9alb": ["Slow Water"],
            "\xa9gen": ["House", "Dub"], "\xa9cmt": ["late, Energy 7"], "\xa9day": ["2019-04-02"],
            "tmpo": [124], "rate": ["80"], "\xa9grp": ["warm-up"], "\xa9wrt": ["I. Dune"], "rtng": [4],
            free + "LABEL": [b"Pierhead"], free + "initialkey": [b"F#m"], free + "REMIXER": [b"Tern Logic"],
            free + "CATALOGNUMBER": [b"PIER 012"], free + "ISRC": [b"QZABC1900012"],
            free + "LANGUAGE": [b"nor"], free + "playcount": [b"12"],
            free + "replaygain_track_gain": [b"-6.7 dB"],
        }
    )  # fmt: skip
    audio.save()


def with_ape(path: Path) -> None:
    tags = APEv2()
    tags.update(
        {
            "Title": "Nattlinje", "Artist": ["Ilva Dune", "Brine Social"], "Album": "Slow Water",
            "Genre": ["House", "Dub"], "Label": "Pierhead", "Comment": "late, Energy 7", "Key": "F#m",
            "Year": "2019", "BPM": "124.5", "Rating": "4", "MixArtist": "Tern Logic",
            "CatalogNumber": "PIER 012", "Grouping": "warm-up", "Composer": "I. Dune", "Language": "nor",
            "ISRC": "QZABC1900012", "Explicit": "1", "Play Counter": "12",
            "REPLAYGAIN_TRACK_GAIN": "-6.7 dB",
        }
    )  # fmt: skip
    tags.save(path)


SLASHES = {"artist": "Ilva Dune/Brine Social", "genre": "House/Dub"}  # lists of version 2.3
WRITERS: dict[str, tuple[str, Callable[[Path], None], dict[str, object]]] = {
    "ID3v2.4": ("mp3", lambda path: with_id3(path, 4), {}),
    "ID3v2.3": ("mp3", lambda path: with_id3(path, 3), SLASHES),
    "ID3 with chapters": ("mp3", with_chapters, {"chapters": MARKS}),
    "FLAC": ("flac", with_vorbis, {"chapters": MARKS}),
    "Opus": ("opus", with_vorbis, {"chapters": MARKS}),
    "MP4": ("m4a", with_mp4, {"bpm": 124.0}),
    "APEv2": ("mp3", with_ape, {}),
}  # fmt: skip


@pytest.mark.parametrize("kind", WRITERS)
def test_every_kind_of_tags_says_the_same(kind: str, sound: dict[str, bytes], tmp_path: Path) -> None:
    form, write, differs = WRITERS[kind]
    path = tmp_path / f"song{ENCODINGS[form].suffix}"
    path.write_bytes(sound[form])
    write(path)
    found = read_tags(path)
    expected = {name: getattr(FULL, name) for name in FULL.__slots__} | {"problem": ""} | differs
    told = {name: getattr(found, name) for name in expected}
    assert told == expected | {"gain_db": pytest.approx(expected["gain_db"], abs=0.01)}


def test_the_oldest_tags_are_read_where_no_newer_ones_are(sound: dict[str, bytes], tmp_path: Path) -> None:
    text = lambda words, size: words.encode("latin-1").ljust(size, b"\x00")  # noqa: E731
    v1 = b"TAG" + text("Old Title", 30) + text("Ångström", 30) + text("An Album", 30) + b"1996"
    v1 += text("a comment", 30) + bytes([35])
    frame = lambda name, words: name + len(words).to_bytes(3, "big") + words  # noqa: E731
    body = frame(b"TT2", b"\x00Short Name") + frame(b"TBP", b"\x00118") + frame(b"TYE", b"\x001999")
    v22 = b"ID3\x02\x00\x00" + struct.pack(">I", len(body)) + body
    (tmp_path / "v1.mp3").write_bytes(sound["mp3"] + v1)
    (tmp_path / "v22.mp3").write_bytes(v22 + sound["mp3"] + v1)
    one, two = read_tags(tmp_path / "v1.mp3"), read_tags(tmp_path / "v22.mp3")
    assert (one.title, one.artist, one.year, one.genre) == ("Old Title", "Ångström", 1996, "House")
    assert (two.title, two.bpm, two.year) == ("Short Name", 118.0, 1999)


def test_of_several_kinds_in_one_file_each_fills_what_the_first_leaves_out(
    sound: dict[str, bytes], tmp_path: Path
) -> None:
    path = tmp_path / "both.mp3"
    path.write_bytes(sound["mp3"])
    with_ape(path)
    tags = ID3()
    tags.add(TIT2(3, ["Newer title"]))
    tags.add(RVA2(desc="track", channel=1, gain=-3.5, peak=1))
    tags.save(path)
    found = read_tags(path)
    assert (found.title, found.gain_db, found.label, found.plays) == ("Newer title", -3.5, "Pierhead", 12)


def chunk(name: bytes, data: bytes) -> bytes:
    return name + struct.pack("<I", len(data)) + data + b"\x00" * (len(data) % 2)


def test_a_wav_says_its_texts_marks_and_loops(sound: dict[str, bytes], tmp_path: Path) -> None:
    info = b"INFO" + chunk(b"INAM", b"Tidevann\x00") + chunk(b"IART", "Sølve Nord".encode("latin-1"))
    info += chunk(b"ICRD", b"2011-05\x00") + chunk(b"IGNR", b"Downtempo\x00")
    point = lambda number, at: struct.pack("<II4sIII", number, at, b"data", 0, 0, at)  # noqa: E731
    cues = struct.pack("<I", 2) + point(1, 66_150) + point(2, 176_400)
    labels = (
        b"adtl"
        + chunk(b"labl", struct.pack("<I", 1) + b"In\x00")
        + chunk(b"labl", struct.pack("<I", 2) + b"Loop\x00")
    )
    sampler = bytes(28) + struct.pack("<II", 1, 0) + struct.pack("<IIIIII", 2, 0, 176_400, 264_599, 0, 0)
    extra = chunk(b"LIST", info) + chunk(b"cue ", cues) + chunk(b"LIST", labels) + chunk(b"smpl", sampler)
    data = sound["wav"] + extra
    path = tmp_path / "song.wav"
    path.write_bytes(data[:4] + struct.pack("<I", len(data) - 8) + data[8:])
    found = read_tags(path)
    assert (found.title, found.artist, found.year, found.genre) == (
        "Tidevann",
        "Sølve Nord",
        2011,
        "Downtempo",
    )
    assert found.chapters == (Chapter(1.5, title="In"), Chapter(4.0, 6.0, "Loop", loops=True))


def test_an_aiff_and_a_cue_sheet_say_theirs(sound: dict[str, bytes], tmp_path: Path) -> None:
    aiff, flac = tmp_path / "song.aiff", tmp_path / "song.flac"
    named = sound["aiff"] + b"NAME" + struct.pack(">I", 8) + b"Harbour!"
    aiff.write_bytes(named[:4] + struct.pack(">I", len(named) - 8) + named[8:])
    assert read_tags(aiff).title == "Harbour!"
    audio = AIFF(aiff)
    audio.add_tags()
    audio.tags.add(TIT2(3, ["By ID3"]))
    audio.save()
    assert read_tags(aiff).title == "By ID3"
    flac.write_bytes(sound["flac"])
    disc = FLAC(flac)
    disc.cuesheet = CueSheet(None)
    for number, at in ((1, 0), (2, 132_300), (170, 264_600)):
        track = CueSheetTrack(number, at)
        track.indexes = [CueSheetTrackIndex(1, 0)] if number < 170 else []
        disc.cuesheet.tracks.append(track)
    disc.metadata_blocks.append(disc.cuesheet)
    disc.save()
    assert read_tags(flac).chapters == (Chapter(0.0, title="1"), Chapter(3.0, title="2"))


@pytest.mark.parametrize(
    ("comment", "expected"),
    [
        ("Energy 7", 70),
        ("8A - energy: 10", 100),
        ("ENERGY=64", 64),
        ("energetic 7", None),
        ("Energy 0", None),
        ("", None),
    ],
)
def test_energy_stands_in_comments(comment: str, expected: int | None) -> None:
    assert energy_in(comment) == expected


def test_stars_and_gains_are_told_by_their_scale() -> None:
    assert [stars(text) for text in ("0.8", "4", "80", "1.0", "1", "x", "-3")] == [4, 4, 4, 5, 1, 0, 0]
    assert [gain_db(text) for text in ("-6.70 dB", "+1,5", "1e9 dB", "loud")] == [-6.7, 1.5, None, None]
