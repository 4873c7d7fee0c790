"""Writing tags into files: only what was asked for changes, the sound stays, and all can be put back."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from mutagen.id3 import APIC, ID3, IPLS, POPM, TDAT, TIT2, TORY, TSOP, TXXX, TYER

from tests.signals import RATE_HZ, drum_loop
from vinyl.core.tag_form import WriteForm, file_name, texts_to_write, without_results
from vinyl.media import rewriting
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.errors import MediaError
from vinyl.media.heading import is_head, rewrite_head
from vinyl.media.rewriting import put_back, rewrite, rewrite_in_place, sound_of
from vinyl.media.tags import Chapter, Tags, parse, read_tags, write_tags
from vinyl.media.tags.editing import edit_tags
from vinyl.media.tags.free import read_free, write_free

THERE = Tags(
    "Halyard", "Ilva Dune", "Tide", "House; Dub", comment="loud", year=2020, rating=2, picture=b"\xff\xd8p"
)
TEXTS = {
    "title": "Fähre 灯台", "artist": "Kelp Union; Tern", "genre": "Techno", "comment": "A minor · warm",
    "key": "Am", "tempo": "124", "energy": "70", "stars": "5", "catalogue": "PIER 9", "label": "Pierhead",
}  # fmt: skip
MARKS = (Chapter(1.5, None, "In"), Chapter(30.25, None, "Main"))


@pytest.fixture(params=list(ENCODINGS))
def song(request: pytest.FixtureRequest, tmp_path: Path) -> Path:
    path = tmp_path / f"song{ENCODINGS[request.param].suffix}"
    encode(drum_loop(120, 0.3, 4.0), RATE_HZ, path, request.param)
    write_tags(path, THERE)
    return path


def test_what_is_written_is_read_and_all_else_stays(song: Path, tmp_path: Path) -> None:
    before, sound, kept = song.read_bytes(), sound_of(song).packet_hash, tmp_path / "kept" / "1"
    marks = None if song.suffix == ".m4a" else MARKS
    song.chmod(0o640)
    rewrite(song, kept, lambda part: edit_tags(part, TEXTS, marks))
    found = read_tags(song)
    assert (found.title, found.artist, found.genre) == ("Fähre 灯台", "Kelp Union; Tern", "Techno")
    assert (found.comment, found.key, found.bpm, found.energy) == ("A minor · warm", "Am", 124.0, 70)
    assert (found.rating, found.catalogue, found.label) == (5, "PIER 9", "Pierhead")
    assert (found.album, found.year, found.picture) == ("Tide", 2020, THERE.picture), (
        "not asked for: as it was"
    )
    if marks:
        assert [(mark.start_s, mark.title) for mark in found.chapters] == [(1.5, "In"), (30.25, "Main")]
    assert sound_of(song).packet_hash == sound and song.stat().st_mode & 0o777 == 0o640
    assert not list(song.parent.glob(".*")), "nothing is left beside it"
    put_back(song, kept)
    assert read_tags(song) == THERE and sound_of(song).packet_hash == sound
    if song.suffix != ".opus":
        assert song.read_bytes() == before, "to the byte"
    with pytest.raises(MediaError, match="changed since"):
        put_back(song, kept)


def test_a_file_is_as_it_was_when_anything_goes_wrong(
    song: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = song.read_bytes()

    def cut(part: Path) -> None:
        part.write_bytes(before[: len(before) * 3 // 4])

    with pytest.raises(MediaError):
        rewrite(song, tmp_path / "kept", cut)
    monkeypatch.setattr(rewriting.shutil, "copyfile", _full_disk)
    with pytest.raises(OSError, match="No space"):
        rewrite(song, tmp_path / "kept", lambda part: edit_tags(part, TEXTS))
    assert song.read_bytes() == before and not list(song.parent.glob(".*"))


def _full_disk(*_: object) -> None:
    raise OSError(28, "No space left on device")


@pytest.mark.parametrize("form", ENCODINGS)
def test_a_file_without_any_tags_gets_them(form: str, tmp_path: Path) -> None:
    path = tmp_path / f"bare{ENCODINGS[form].suffix}"
    encode(drum_loop(120, 0.3, 4.0), RATE_HZ, path, form)
    parsed = parse(path)
    assert parsed is not None
    parsed.delete()
    before = path.read_bytes()
    rewrite(path, tmp_path / "kept", lambda part: edit_tags(part, {"title": "Salt", "tempo": "124"}))
    assert (read_tags(path).title, read_tags(path).bpm) == ("Salt", 124.0)
    put_back(path, tmp_path / "kept")
    assert read_tags(path).title == "" and (form == "opus" or path.read_bytes() == before)


def test_old_tags_keep_their_version_and_what_other_programs_wrote(tmp_path: Path) -> None:
    path = tmp_path / "old.mp3"
    encode(drum_loop(120, 0.3, 4.0), RATE_HZ, path, "mp3")
    tags = ID3()
    for frame in (
        TIT2(1, ["Old"]),
        TXXX(1, "SOMEBODY'S OWN", ["kept"]),
        POPM("somebody@example", 196, count=12),
        APIC(1, "image/png", 3, "", b"png"),
    ):
        tags.add(frame)
    tags.save(path, v2_version=3, v1=2)
    rewrite(path, tmp_path / "kept", lambda part: edit_tags(part, {"artist": "A; B", "stars": "1"}))
    after = ID3(path)
    assert after.version == (2, 3, 0) and after["TXXX:SOMEBODY'S OWN"].text == ["kept"]
    assert after["POPM:somebody@example"].count == 12 and read_tags(path).plays == 12
    assert (read_tags(path).artist, read_tags(path).rating) == ("A; B", 1)


def test_the_frames_of_old_tags_stay_as_they_are(tmp_path: Path) -> None:
    path = tmp_path / "old.mp3"
    encode(drum_loop(120, 0.3, 4.0), RATE_HZ, path, "mp3")
    tags = ID3()
    for frame in (TIT2(1, ["Old"]), TYER(0, ["1998"]), TDAT(0, ["0204"]), TORY(0, ["1997"])):
        tags.add(frame)
    for frame in (IPLS(0, [["producer", "Tern"]]), TSOP(1, ["Dune, Ilva"]), TXXX(1, "RATING", ["5"])):
        tags.add(frame)
    tags.save(path, v2_version=3)

    def frames() -> dict[str, str]:
        return {name: repr(frame) for name, frame in ID3(path, translate=False).items()}

    before = frames()
    edit_tags(path, {"title": "New"})
    write_free(path, "VINYL TEST", "kept")
    assert read_tags(path).year == 1998
    after = frames()
    assert "New" in after.pop("TIT2") and after.pop("TXXX:VINYL TEST")
    assert after == {name: frame for name, frame in before.items() if name != "TIT2"}
    edit_tags(path, {"year": "2001"})
    assert (read_tags(path).year, ID3(path, translate=False)["TYER"].text) == (2001, ["2001"])


@pytest.mark.parametrize("stars", range(6))
def test_stars_are_read_back_none_too(song: Path, stars: int) -> None:
    assert read_tags(song).rating == 2
    edit_tags(song, {"stars": str(stars)})
    assert read_tags(song).rating == stars


VALUES = {"key": "A minor", "tempo": "124.0", "energy": "70", "title": "Salt", "artist": "Kelp / Union"}


@pytest.mark.parametrize(
    ("place", "expected"),
    [
        ("before", "Am · 124.0 BPM · Energy 70 · my words"),
        ("after", "my words · Am · 124.0 BPM · Energy 70"),
        ("replace", "Am · 124.0 BPM · Energy 70"),
    ],
)
def test_results_in_a_comment_take_the_place_of_older_ones(place: str, expected: str) -> None:
    form = WriteForm(
        notation="short", tempo_digits=1, results=("key", "tempo", "energy"), results_place=place
    )  # type: ignore[arg-type]
    first = texts_to_write(form, VALUES, "my words")["comment"]
    assert first == expected
    newer = {**VALUES, "key": "C major"}
    again = texts_to_write(form, newer, first)["comment"]
    assert again == expected.replace("Am", "C") and texts_to_write(form, newer, again)["comment"] == again


@given(st.text())
def test_a_comment_of_ones_own_is_never_lost(words: str) -> None:
    own = without_results(words)
    form = WriteForm(results=("key", "energy"))
    assert without_results(texts_to_write(form, VALUES, words)["comment"]) == own
    assert texts_to_write(WriteForm(fields=frozenset({"comment", "label"})), {}, words) == {}


def test_names_of_files_by_a_pattern() -> None:
    form = WriteForm(notation="short", tempo_digits=0)
    assert file_name("{artist} - {title} [{key} {tempo}]", VALUES, form) == "Kelp - Union - Salt [Am 124]"
    assert file_name("{artist} - {title} ({label})", {"title": "Salt"}, form) == "Salt"
    assert file_name("../{title}.", {"title": "a/../b\x00"}, form) == "-a-..-b-"
    assert len(file_name("{title}", {"title": "x" * 900}, form)) == 200
    assert replace(form, tempo_digits=2).tempo_digits == 2


def test_tags_with_room_are_written_in_place_and_put_back_to_the_byte(song: Path, tmp_path: Path) -> None:
    sound, kept = sound_of(song), tmp_path / "kept" / "1"
    rewrite_in_place(song, tmp_path / "kept" / "0", lambda part: write_free(part, "PIER", "x" * 40))
    before, inode = song.read_bytes(), song.stat().st_ino
    rewrite_in_place(song, kept, lambda part: write_free(part, "PIER", "y" * 60))
    assert read_free(song, "PIER") == "y" * 60 and read_tags(song).title == THERE.title
    assert sound_of(song).packet_hash == sound.packet_hash
    if song.suffix in (".mp3", ".flac"):
        assert song.stat().st_ino == inode and len(song.read_bytes()) == len(before), "no copy was made"
        assert is_head(kept)
    put_back(song, kept)
    assert read_free(song, "PIER") == "x" * 40
    if song.suffix != ".opus":
        assert song.read_bytes() == before
    with pytest.raises(MediaError, match="changed since"):
        put_back(song, kept)


def test_a_head_that_a_power_cut_has_torn_is_mended(tmp_path: Path) -> None:
    path, kept = tmp_path / "song.flac", tmp_path / "kept" / "1"
    encode(drum_loop(120, 0.3, 4.0), RATE_HZ, path, "flac")
    write_tags(path, THERE)
    before = path.read_bytes()
    assert rewrite_head(path, kept, lambda part: write_free(part, "PIER", "y" * 60))
    whole = path.read_bytes()
    torn = before[:200] + whole[200:]
    assert torn not in (before, whole)
    path.write_bytes(torn)
    assert rewrite_head(path, kept, lambda part: write_free(part, "PIER", "y" * 60))
    assert path.read_bytes() == whole
    put_back(path, kept)
    assert path.read_bytes() == before
