"""Reading playlist files of all kinds, and telling where the paths of other computers lead."""

from __future__ import annotations

import tracemalloc
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vinyl.core.foreign_paths import PathMapping, by_name, map_path, parse_path, propose_mappings
from vinyl.core.naming import file_key, name_key
from vinyl.exchange.errors import ListError
from vinyl.exchange.lists import Columns, Entry, read_playlist

M3U = """#EXTM3U
#PLAYLIST:Freitag im Hafen
#EXTINF:215,Ilva Dune - Fähre bei Nacht
C:\\Musik\\Häuser\\Fähre.mp3
# a note
#EXTINF:-1 group="warm",Only a title
../Kelp/Halyard.flac
http://radio.example/stream
"""


def read(folder: Path, name: str, data: bytes | str, columns: Columns | None = None):  # type: ignore[no-untyped-def]
    path = folder / name
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    return read_playlist(path, columns)


@pytest.mark.parametrize(
    ("encoding", "said"),
    [
        ("utf-8", "UTF-8"),
        ("utf-8-sig", "UTF-8"),
        ("cp1252", "Windows-1252"),
        ("utf-16", "UTF-16"),
        ("utf-16-le", "UTF-16"),
        ("utf-16-be", "UTF-16"),
    ],
)
def test_m3u_in_any_encoding(tmp_path: Path, encoding: str, said: str) -> None:
    found = read(tmp_path, "list.m3u", M3U.encode(encoding))
    assert (found.name, found.encoding, found.passed_over) == ("Freitag im Hafen", said, 1)
    assert found.entries == (
        Entry("C:\\Musik\\Häuser\\Fähre.mp3", "Ilva Dune", "Fähre bei Nacht", 215.0),
        Entry("../Kelp/Halyard.flac", "", "Only a title", None),
    )


def test_pls_xspf_and_tables_say_the_same(tmp_path: Path) -> None:
    expected = Entry("/music/Night Ferry.mp3", "Ilva Dune", "Night Ferry")
    pls = "[playlist]\nFile2=b.mp3\nFile1=/music/Night Ferry.mp3\nTitle1=Ilva Dune - Night Ferry\n"
    xspf = """<?xml version="1.0"?><playlist version="1" xmlns="http://xspf.org/ns/0/"><title>Tide</title>
      <trackList><track><location>/music/Night%20Ferry.mp3</location><creator>Ilva Dune</creator>
      <title>Night Ferry</title></track></trackList></playlist>"""
    table = 'Artist;Song;"File path"\nIlva Dune;Night Ferry;/music/Night Ferry.mp3\n\n;;\n'
    for name, text in (("a.pls", pls), ("a.xspf", xspf), ("a.csv", table)):
        assert read(tmp_path, name, text).entries[0] == expected, name
    assert read(tmp_path, "b.xspf", xspf).name == "Tide"
    odd = read(tmp_path, "a.tsv", "x\tNight Ferry\tIlva Dune\n")
    assert odd.entries == () and odd.table.head == ("column 1", "column 2", "column 3")
    assert read(tmp_path, "a.tsv", "x\tNight Ferry\tIlva Dune\n", Columns(None, 2, 1)).entries == (
        Entry("", "Ilva Dune", "Night Ferry"),
    )


def test_a_cue_sheet_divides_one_file_or_lists_many(tmp_path: Path) -> None:
    one = """PERFORMER "Various"\nTITLE "Live at the quay"\nFILE "set.flac" WAVE
      TRACK 01 AUDIO\n TITLE "Halyard"\n PERFORMER "Kelp Union"\n INDEX 00 00:00:00\n INDEX 01 00:02:37
      TRACK 02 AUDIO\n TITLE "Salt"\n INDEX 01 75:10:00\n TRACK 03 AUDIO\n TITLE "No index"\n"""
    found = read(tmp_path, "set.cue", one)
    assert found.entries == () and found.name == "Live at the quay"
    (sheet,) = found.sheets
    assert sheet.path == "set.flac"
    assert [(round(mark.start_s, 3), mark.title) for mark in sheet.marks] == [
        (2.493, "Kelp Union – Halyard"),
        (4510.0, "Salt"),
    ]
    many = 'PERFORMER "Kelp Union"\n' + "".join(
        f'FILE "{n}.wav" WAVE\nTRACK 01 AUDIO\nTITLE "Song {n}"\nINDEX 01 00:00:00\n' for n in (1, 2)
    )
    assert read(tmp_path, "many.cue", many).entries[1] == Entry("2.wav", "Kelp Union", "Song 2")


BOMB = (
    '<?xml version="1.0"?><!DOCTYPE p [<!ENTITY a "aaaaaaaaaa">'
    + "".join(f'<!ENTITY {b} "{f"&{a};" * 10}">' for a, b in zip("abcdefgh", "bcdefghi", strict=True))
    + "]><playlist><title>&i;</title></playlist>"
)
OUTSIDE = (
    '<?xml version="1.0"?><!DOCTYPE p [<!ENTITY x SYSTEM "file:///etc/passwd">]>'
    "<playlist><title>&x;</title><trackList/></playlist>"
)


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("bomb.xspf", BOMB, "defines XML entities"),
        ("outside.xspf", OUTSIDE, "defines XML entities"),
        ("broken.xspf", "<playlist><trackList>", "no well-formed XML"),
        ("page.xspf", "<html/>", "no XSPF"),
        ("noise.m3u", b"\x00\xff\x80\x81\x82\x83\x84" * 400, "no text"),
        ("empty.m3u8", b"", "no entries"),
        ("empty.csv", b"\n\n", "no rows"),
        ("quotes.csv", 'a,"' + "b" * 200_000, "cannot be read"),
    ],
)
def test_hostile_lists_are_refused_in_words(tmp_path: Path, name: str, data: bytes | str, words: str) -> None:
    tracemalloc.start()
    with pytest.raises(ListError, match=words):
        read(tmp_path, name, data)
    assert tracemalloc.get_traced_memory()[1] < 50e6
    tracemalloc.stop()


@pytest.mark.parametrize(
    ("text", "root", "parts"),
    [
        (r"C:\Music\House\x.mp3", "C:", "Music/House/x.mp3"),
        ("c:/Music/./y/../x.mp3", "C:", "Music/x.mp3"),
        (r"\\NAS\share\x.mp3", "//NAS", "share/x.mp3"),
        ("file:///C:/Music/a%20b%C3%A4.mp3", "C:", "Music/a bä.mp3"),
        ("file://localhost/Users/dj/x.mp3", "/", "Users/dj/x.mp3"),
        ("file://nas/share/x.mp3", "//nas", "share/x.mp3"),
        ("/Volumes/Kiste/a:b.mp3", "/", "Volumes/Kiste/a:b.mp3"),
        ("a\u0308/x.mp3", "", "ä/x.mp3"),
        (r"..\x.mp3", "", "../x.mp3"),
        ("50%off.mp3", "", "50%off.mp3"),
    ],
)
def test_paths_of_other_systems(text: str, root: str, parts: str) -> None:
    path = parse_path(text)
    assert path is not None and (path.root, "/".join(path.parts)) == (root, parts)


def test_addresses_are_no_paths() -> None:
    assert parse_path("https://radio.example/x.mp3") is None and parse_path("  ") is None


@given(st.text())
def test_any_text_is_a_path_or_none(text: str) -> None:
    path = parse_path(text)
    assert path is None or (path.parts and "" not in path.parts)
    assert isinstance(file_key(text), str) and isinstance(name_key(text, text), str)


def test_mappings_are_proposed_by_what_is_here() -> None:
    here = by_name([f"/home/mara/Music/House/{n}.mp3" for n in range(9)] + ["/home/mara/old/3.mp3"])
    entries = [parse_path(f"D:\\Musik\\House\\{n}.MP3") for n in range(5)]
    found = propose_mappings([entry for entry in entries if entry], here)
    assert found[0].mapping == PathMapping("D:/Musik", "/home/mara/Music") and found[0].entries == 5
    assert map_path(entries[4], [found[0].mapping]) == ["/home/mara/Music/House/4.MP3"]  # type: ignore[arg-type]
    assert map_path(entries[4], [PathMapping("D:/Mus", "/x")]) == []  # type: ignore[arg-type]


def test_names_that_vary_are_the_same() -> None:
    assert name_key("Ilva Dune ft. Òran", "Night Ferry (Original Mix)") == name_key(
        "ILVA DUNE feat Oran", "night ferry"
    )
    assert name_key("Ilva Dune", "Night Ferry (Dub)") != name_key("Ilva Dune", "Night Ferry")
    assert name_key("", "Night Ferry") == "" and file_key("Fähre.FLAC") == file_key("fa\u0308hre.mp3")
