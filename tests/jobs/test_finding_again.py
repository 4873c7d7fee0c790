"""Files that were moved, renamed, re-tagged or made anew: found again, and taken once it is confirmed."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.jobs.test_background import House
from vinyl.core.cues.cue import Cue
from vinyl.core.finding_again import FileTraits, compare, match_all
from vinyl.jobs.finding_again import found_files
from vinyl.jobs.importing import find_changes
from vinyl.library import cues
from vinyl.media.encode import convert
from vinyl.media.tags import Tags, write_tags


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.services.start()
    yield made
    made.services.stop()


def test_files_are_found_by_sound_name_and_tags_and_taken_when_confirmed(house: House) -> None:
    songs = {
        name: house.song(f"old/{name}", bpm=100 + 9 * n)
        for n, name in enumerate(("Moved", "Made anew", "Lost"))
    }
    for name, path in songs.items():
        write_tags(path, Tags(name, "Ilva Dune"))
    house.bring_in()
    with house.database.write("cue") as connection:
        for row in house.rows().values():
            cues.add_cue(connection, row["id"], Cue(1.0, label="In"))
    new = house.music.parent / "music" / "new drive" / "deep"
    new.mkdir(parents=True)
    shutil.move(songs["Moved"], new / "01 something else.mp3")
    write_tags(new / "01 something else.mp3", Tags("Another title"))
    convert(songs["Made anew"], new / "made anew.flac", "flac")
    write_tags(new / "made anew.flac", Tags("Made Anew", "ilva dune"))
    (new / "broken.mp3").write_bytes(b"ID3\x04\x00" + bytes(500))
    house.song("new drive/stranger", bpm=150)
    shutil.rmtree(house.music / "old")
    find_changes(house.database)
    finder = house.services.finder
    job = house.wait(finder.add(house.music / "new drive"))
    found = {each.title: each for each in found_files(job)}
    assert set(found) == {"Moved", "Made anew"}, "what is nowhere is not guessed"
    assert found["Moved"].confidence == 1.0 and found["Moved"].evidence == ("the same sound",)
    assert 0.75 <= found["Made anew"].confidence < 1.0
    assert {"the same name", "the same artist and title"} <= set(found["Made anew"].evidence)
    assert all(row["away"] for row in house.rows().values()), "nothing is taken unasked"
    assert finder.take(job, [each.track_id for each in found.values()]) == 2
    imported = (
        next(job for job in house.services.runner.open_jobs("import"))
        if house.services.runner.open_jobs("import")
        else None
    )
    if imported:
        house.wait(imported)
    house.analysed()
    rows = {row["id"]: row for row in house.rows().values()}
    for each in found.values():
        row = rows[each.track_id]
        assert row["path"] == each.after and not row["away"] and row["cue_count"] == 1
    assert rows[found["Made anew"].track_id]["replaced"], "another sound is to be checked by ear"
    assert not rows[found["Moved"].track_id]["replaced"]


TRAITS = st.builds(
    FileTraits,
    st.sampled_from([None, "a", "b"]),
    st.integers(1, 3),
    st.sampled_from([100.0, 100.05, 101.0, 200.0]),
    st.sampled_from(["x", "y", "z"]),
    st.sampled_from(["", "k – t", "k – u"]),
)


@given(st.lists(TRAITS, max_size=6), st.lists(TRAITS, max_size=6))
def test_each_file_goes_to_one_track_and_the_surest_first(
    lost: list[FileTraits], found: list[FileTraits]
) -> None:
    matches = match_all(lost, found)
    assert len({match.lost for match in matches}) == len({match.found for match in matches}) == len(matches)
    sureness = [match.likeness.confidence for match in matches]
    assert sureness == sorted(sureness, reverse=True)
    for one in lost:
        assert compare(one, one).confidence >= compare(one, replace(one, file_key="other")).confidence
