"""The stand-in libraries: what is written is what is read, by Vinyl and by their own readers."""

from __future__ import annotations

import csv
import hashlib
import json
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from tests.core.test_carrying import OPTIONS, tracks
from tests.signals import encode_with_head
from vinyl.core.carrying.bring import bring
from vinyl.core.carrying.card import Card, Point, Step
from vinyl.core.carrying.carry import carry
from vinyl.core.carrying.collection import Cue, Node, Track
from vinyl.core.carrying.options import Options
from vinyl.core.carrying.traits import PLAYLISTS, REEDBANK, SALTMARSH, TARGETS, TIDEWRACK
from vinyl.exchange.checking import compare
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.reedbank import ReedbankReader, path_of, url_of, write_reedbank
from vinyl.exchange.libraries.saltmarsh import SaltmarshReader, write_saltmarsh
from vinyl.exchange.libraries.tidewrack import (
    TAG,
    TidewrackReader,
    head_text,
    pack_record,
    unpack_record,
    write_lists,
)
from vinyl.exchange.lists import read_playlist
from vinyl.exchange.lists.cue_sheet import quoted
from vinyl.exchange.lists.writing import SUFFIXES, said, write_list
from vinyl.exchange.swapping import KEPT, swap_in
from vinyl.exchange.weighing import can_stand
from vinyl.media.decode import decode
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.probe import probe
from vinyl.media.tags.free import read_free, write_free
from vinyl.standin_libraries import reedbank, saltmarsh, sound, tidewrack

PATHS = st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=60).map(
    lambda t: f"/m/{t}"
)
NAMES = st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=20)
LISTS = st.recursive(
    st.builds(Node, NAMES, st.just("list"), st.lists(st.sampled_from("123")).map(tuple)),
    lambda inner: st.builds(
        Node, NAMES, st.just("folder"), st.just(()), st.lists(inner, max_size=3).map(tuple)
    ),
    max_leaves=5,
)
EVERY_SIGN = Card(
    "/m/a&b<c>\"d'e%20f#g?h ä 你 \U0001f30a.mp3",
    {"title": "]]> &amp; <x> \"'", "comment": "one\ntwo\r\n\tthree", "artist": "\U0001f30a ä"},
    points=(Point("peg", 1, 5, None, "a \"b\" <c> & 'd'\n", "clay"),),
)


@settings(deadline=None, max_examples=60)
@given(tracks(), OPTIONS, PATHS, st.lists(LISTS, max_size=3).map(tuple))
def test_each_card_is_read_as_it_was_written(
    tmp_path_factory: pytest.TempPathFactory,
    track: Track,
    options: Options,
    path: str,
    lists: tuple[Node, ...],
) -> None:
    folder = tmp_path_factory.mktemp("cards")
    for name, write, own, reader in (
        ("reedbank", write_reedbank, reedbank, ReedbankReader),
        ("saltmarsh", write_saltmarsh, saltmarsh, SaltmarshReader),
    ):
        card = carry(track, TARGETS[name], options).card
        cards = [(key, Card(f"{path}{key}", card.words, *_rest(card))) for key in "123"]
        place = folder / name
        write(place, cards, lists)
        ours = reader(place)
        assert list(ours.cards()) == cards
        assert ours.told.lists == lists and not ours.told.problems
        told = list(own.tracks(place))
        assert [compare(card.told(), each) for (_, card), each in zip(cards, told, strict=True)] == [[]] * 3
        assert _plain(own.lists(place)) == _plain_nodes(lists)
    card = carry(track, TIDEWRACK, options).card
    assert unpack_record(pack_record(card), card.path) == card
    assert not compare(card.told(), {"path": card.path, **tidewrack.unpacked(pack_record(card))})


def _rest(card: Card) -> tuple[object, ...]:
    return card.steps, card.beats_per_bar, card.settled, card.points, card.tags


def _plain(told: list[dict[str, object]]) -> list[object]:
    return [
        [each["name"], _plain(each["lists"]) if "lists" in each else each["tracks"]]  # type: ignore[arg-type]
        for each in told
    ]


def _plain_nodes(nodes: tuple[Node, ...]) -> list[object]:
    return [
        [node.name, _plain_nodes(node.inner) if node.kind == "folder" else list(node.tracks)]
        for node in nodes
    ]


def test_names_with_every_sign_of_a_format_come_back(tmp_path: Path) -> None:
    long = Card("/m/" + "/".join(["x" * 90] * 5) + ".mp3")
    cards = [("1", EVERY_SIGN), ("2", long), ("3", Card("/m/Same.mp3")), ("4", Card("/m/same.mp3"))]
    for write, reader, own in (
        (write_reedbank, ReedbankReader, reedbank),
        (write_saltmarsh, SaltmarshReader, saltmarsh),
    ):
        place = tmp_path / own.__name__
        write(place, [(k, c if own is reedbank else _listed(c)) for k, c in cards], ())
        assert [card.path for _, card in reader(place).cards()] == [card.path for _, card in cards]
        first = next(own.tracks(place))
        assert first["words"] == EVERY_SIGN.words
        assert first["points"][0][4] == EVERY_SIGN.points[0].name


def _listed(card: Card) -> Card:
    points = tuple(
        Point("list", each.place, each.at, each.length, each.name, "#1c241f") for each in card.points
    )
    return Card(card.path, card.words, points=points)


@pytest.mark.parametrize(
    "path", ["D:/Music/a b#c.mp3", "/Volumes/Tide/ä%41.flac", "//nas/share/x.wav", "/m/100%/?.mp3"]
)
def test_a_path_of_any_system_is_an_address_and_back(path: str) -> None:
    assert path_of(url_of(path)) == path


def _document(tmp_path: Path, count: int = 4) -> Path:
    place = tmp_path / "x.reedbank.xml"
    cards = [(str(n), Card(f"/m/{n}.mp3", {"title": f"Söng {n}"})) for n in range(1, count + 1)]
    write_reedbank(place, cards, (Node("List", "list", ("1", "2")),))
    return place


def _cut(data: bytes) -> bytes:
    return data[: data.index(b'no="3"')]


def _latin(data: bytes) -> bytes:
    return data.replace("Söng 2".encode(), "Söng 2".encode("cp1252"))


def _all_latin(data: bytes) -> bytes:
    return data.replace("ö".encode(), b"\xf6")


def _odd_number(data: bytes) -> bytes:
    return data.replace(b'<item no="2" file="file:', b'<item no="2" file="http:')


@pytest.mark.parametrize(
    ("spoil", "titles", "says"),
    [
        (_cut, ["Söng 1", "Söng 2"], "breaks off or is damaged after item 2"),
        (_latin, ["Söng 1", "Söng 2", "Söng 3", "Söng 4"], "1 signs were not in the encoding"),
        (_all_latin, ["Söng 1", "Söng 2", "Söng 3", "Söng 4"], "4 signs were not in the encoding"),
        (_odd_number, ["Söng 1", "Söng 3", "Söng 4"], "Item 2 was passed over"),
    ],
)
def test_of_a_broken_document_what_is_whole_is_taken(
    tmp_path: Path, spoil: Callable[[bytes], bytes], titles: list[str], says: str
) -> None:
    place = _document(tmp_path)
    place.write_bytes(spoil(place.read_bytes()))
    before = _digest(place)
    reader = ReedbankReader(place)
    assert [card.words["title"] for _, card in reader.cards()] == titles
    assert says in " ".join(reader.told.problems)
    assert _digest(place) == before


BOMB = '<!DOCTYPE r [<!ENTITY a "aa"><!ENTITY b "&a;&a;">]><reedbank edition="2">&b;</reedbank>'
OUTSIDE = '<!DOCTYPE r [<!ENTITY x SYSTEM "file:///etc/passwd">]><reedbank edition="2">&x;</reedbank>'


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (BOMB, "entities"),
        (OUTSIDE, "entities"),
        ('<reedbank edition="9"/>', "edition 9; Vinyl reads Reedbank up to 2"),
        ("<other/>", "no Reedbank document"),
        ("no xml at all", "no well-formed XML"),
        ("", "no well-formed XML"),
    ],
)
def test_a_document_that_is_none_is_refused_in_words(tmp_path: Path, text: str, says: str) -> None:
    place = tmp_path / "x.reedbank.xml"
    place.write_text(text)
    with pytest.raises(LibraryFormatError, match=says):
        list(ReedbankReader(place).cards())


def test_a_database_is_read_while_another_program_writes_but_not_where_it_is_locked_or_newer(
    tmp_path: Path,
) -> None:
    place = tmp_path / "x.saltmarsh.db"
    card = Card("a.mp3", {"title": "A"}, (Step(0.5, 0.0, 120.0),), 4, True)
    write_saltmarsh(place, [("1", card)], ())
    with closing(sqlite3.connect(place, isolation_level=None)) as other:
        other.execute("PRAGMA journal_mode = WAL")
        other.execute("BEGIN IMMEDIATE")
        other.execute("UPDATE word SET text = 'half done'")
        assert [each for _, each in SaltmarshReader(place).cards()] == [card]
        other.execute("ROLLBACK")
        other.execute("PRAGMA journal_mode = DELETE")
        other.execute("BEGIN EXCLUSIVE")
        with pytest.raises(LibraryFormatError, match="being written by another program"):
            list(SaltmarshReader(place).cards())
        other.execute("ROLLBACK")
        other.execute("UPDATE track SET beats = x'00112233'")
        reader = SaltmarshReader(place)
        assert [each.steps for _, each in reader.cards()] == [()]
        assert "came without its grid" in reader.told.problems[0]
        other.execute("INSERT INTO point VALUES (1, 1, 'soon', NULL, 'x', '#112233', 0)")
        reader = SaltmarshReader(place)
        assert list(reader.cards()) == []
        assert "Track 1 was passed over: a number in it is none" in reader.told.problems[1]
        other.execute("PRAGMA user_version = 7")
    before = _digest(place)
    with pytest.raises(LibraryFormatError, match="format 7; Vinyl reads Saltmarsh up to 1"):
        list(SaltmarshReader(place).cards())
    assert _digest(place) == before
    place.write_bytes(b"SQLite format 3\x00" + b"x" * 5000)
    with pytest.raises(LibraryFormatError, match="no Saltmarsh database"):
        list(SaltmarshReader(place).cards())


def test_a_record_that_is_damaged_or_newer_is_named_and_the_others_are_read(tmp_path: Path) -> None:
    card = Card("a.flac", {"title": "A"}, points=(Point("cue", 1, 44100, None, "in", "12"),))
    good = pack_record(card)
    for name, text in (
        ("a", good),
        ("b", good[:-8] + "AAAAAAA="),
        ("c", "Ag" + good[2:]),
        ("d", "%%%"),
        ("e", ""),
    ):
        encode(_attacks(), 44100, tmp_path / f"{name}.flac", "flac")
        if text:
            write_free(tmp_path / f"{name}.flac", TAG, text)
    paths = [f"{name}.flac" for name in "abcdef"] + ["../../outside.mp3"]
    write_lists(tmp_path / "lists-1", [("everything", paths)])
    (tmp_path / "tidewrack.txt").write_text(head_text("lists-1"))
    reader = TidewrackReader(tmp_path, lambda path: path.resolve().is_relative_to(tmp_path))
    cards = {each.path: each for _, each in reader.cards()}
    assert cards["a.flac"] == card and cards["e.flac"] == Card("e.flac")
    said = " ".join(reader.told.problems)
    for words in (
        "b.flac: its Tidewrack record does not fit",
        "c.flac: its Tidewrack record is of version 2",
        "d.flac: its Tidewrack record is damaged",
        "f.flac: the file is not there",
        "outside",
    ):
        assert words in said
    (tmp_path / "tidewrack.txt").write_text(head_text("../elsewhere"))
    with pytest.raises(LibraryFormatError, match="names no folder"):
        list(reader.cards())


ATTACKS_S = (0.5, 2.0, 5.75)


def _attacks() -> NDArray[np.float32]:
    mono = np.zeros(44100 * 7, np.float32)
    ring = np.arange(2000)
    for at_s in ATTACKS_S:
        first = round(at_s * 44100)
        mono[first : first + 2000] = 0.8 * np.sin(2 * np.pi * 1500 * ring / 44100) * np.exp(-ring / 600)
    return np.stack([mono, mono])


def _heard(path: Path) -> list[float]:
    """Where Vinyl hears the attacks, which without a head may be some milliseconds late."""
    heard = decode(path, 44100).samples[0]
    loud = np.flatnonzero(np.abs(heard) > 0.2)
    begins = loud[np.flatnonzero(np.diff(loud, prepend=-22050) > 11025)]
    return [float(first) / 44100 for first in begins]


def _files(folder: Path) -> Iterator[Path]:
    for form in ("mp3", "m4a", "opus", "flac"):
        path = folder / f"same{ENCODINGS[form].suffix}"
        encode(_attacks(), 44100, path, form)
        yield path
    for name, late, head in (
        ("vbr.mp3", 0, {}),
        ("no head.mp3", 0, {"write_xing": "0"}),
        ("late.m4a", 44100, {}),
    ):
        encode_with_head(folder / name, _attacks(), late, **head)
        yield folder / name


def test_a_cue_stands_on_the_same_attack_on_the_other_side_whatever_the_codec(tmp_path: Path) -> None:
    """Heard by the other side's own ears: with the padding in Reedbank, without it in the two others."""
    padded = 0
    for path in _files(tmp_path):
        facts = probe(path)
        padding_s = facts.trimmed_samples / facts.rate_hz
        padded += padding_s > 0
        attacks_s = _heard(path)
        cues = tuple(Cue(at_s, pad=number) for number, at_s in enumerate(attacks_s, 1))
        track = Track("1", str(path), facts.duration_s, padding_s, cues=cues)
        document, database = tmp_path / "one.reedbank.xml", tmp_path / "one.saltmarsh.db"
        write_reedbank(document, [("1", carry(track, REEDBANK, Options()).card)], ())
        database.unlink(missing_ok=True)
        write_saltmarsh(database, [("1", carry(track, SALTMARSH, Options()).card)], ())
        write_free(path, TAG, pack_record(carry(track, TIDEWRACK, Options()).card))
        record = tidewrack.unpacked(read_free(path, TAG) or "")
        for told, per_second, counts in (
            (next(reedbank.tracks(document)), 1000, True),
            (next(saltmarsh.tracks(database)), 1, False),
            (record, 44100, False),
        ):
            places = [point[2] / per_second for point in told["points"] if point[0] != "quick"]
            heard = [sound.attack_near(path, at_s, counts) for at_s in places]
            assert places == pytest.approx(heard, abs=0.001), path.name
        back, _ = bring(carry(track, REEDBANK, Options()).card, REEDBANK, "1", padding_s, facts.duration_s)
        assert [cue.position_s for cue in back.cues] == pytest.approx(attacks_s, abs=0.001)
    assert padded == 4


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


@settings(deadline=None, max_examples=60)
@given(st.lists(st.tuples(PATHS, NAMES, NAMES), min_size=1, max_size=6), st.sampled_from(sorted(PLAYLISTS)))
@example([("/m/0", "Kelp Union", " ")], "m3u8")
@example(
    [("#1 Hits/a.mp3", "A", "B"), ("/m/\x85\u2028 .mp3 ", "A\nB", '"C"'), ("#EXTM3U.mp3", "", "x")], "m3u8"
)
@example(
    [("#1 Hits/a.mp3", "A", "B"), ("/m/\x85\u2028 .mp3 ", "A\nB", '"C"'), (" #EXTM3U.mp3", "", "x")], "pls"
)
@example([("/m/a.mp3", '"Kelp" Union', 'The "Tide"'), ("/m/b.mp3", "", '=cmd|"x"')], "cue")
@example([("/m/a.mp3", "=1+1", "@x"), ("/m/-b.mp3", "-Kelp", "'=x")], "csv")
@example([("/m/ ", "0", "0"), ("\u3000/m/a .mp3\t", "0", "0")], "csv")
def test_a_playlist_in_an_open_format_is_read_as_it_was_written(
    tmp_path_factory: pytest.TempPathFactory, entries: list[tuple[str, str, str]], form: str
) -> None:
    cards = []
    for path, artist, title in entries:
        track = Track("1", path, 200.4, values={"artist": artist, "title": title, "genre": 'a "b", c'})
        card = carry(track, TARGETS[form], Options()).card  # type: ignore[index]
        if can_stand(card.path, form):
            cards.append(card)
    assume(cards)
    file = tmp_path_factory.mktemp("lists") / f"list{SUFFIXES[form]}"  # type: ignore[index]
    file.write_text(write_list(form, "A list", cards), encoding="utf-8", newline="")  # type: ignore[arg-type]
    read = [(_path(each.path), _named(each.artist, each.title)) for each in read_playlist(file).entries]
    name = (lambda card: quoted(said(card))) if form == "cue" else said
    assert read == [(card.path, name(card)) for card in cards]
    if form == "csv":
        rows = [row for row in csv.reader(file.open(newline="")) if row]
        assert not any(cell.startswith(("=", "+", "-", "@")) for row in rows for cell in row)


def _path(text: str) -> str:
    return path_of(text) if text.startswith("file:") else text.removeprefix("./")


def _named(artist: str, title: str) -> str:
    return " - ".join(filter(None, (artist, title)))


def test_told_cards_are_plain_json() -> None:
    card = Card(
        "/a", {"title": "x"}, (Step(1, 0.0, 120.5),), 4, True, (Point("loop", 1, 2, 3, "n", "4"),), ("t",)
    )
    assert json.loads(json.dumps(card.told())) == card.told()


def test_of_what_was_there_before_the_newest_is_kept(tmp_path: Path) -> None:
    place = tmp_path / "vinyl.reedbank.xml"
    own = tmp_path / "vinyl.reedbank.xml.backup-of-mine"
    own.write_text("mine")
    at = datetime(2026, 11, 30, 12)
    for number in range(KEPT + 4):
        part = tmp_path / "part"
        part.write_text(f"{number}")
        swap_in(part, place, at + timedelta(minutes=number))
    kept = sorted(each.read_text() for each in tmp_path.glob("*.backup-2026*"))
    assert kept == sorted(str(number) for number in range(3, KEPT + 3))
    assert (place.read_text(), own.read_text()) == (str(KEPT + 3), "mine")
