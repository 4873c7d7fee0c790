"""Foreign playlists brought in: mapped, placed, imported, wanted, and what is wanted arriving."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.jobs.test_background import House
from vinyl.core.foreign_paths import PathMapping
from vinyl.exchange.lists import Columns
from vinyl.jobs.listing import ListChoice
from vinyl.library import analyses, crates, undo, wanted
from vinyl.media.tags import Tags, write_tags


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.services.start()
    yield made
    made.services.stop()


def titles(house: House, crate_id: int) -> list[str]:
    ids = crates.crate_tracks(house.database.read(), crate_id)
    names = {row["id"]: title for title, row in house.rows().items()}
    return [names[track_id] for track_id in ids]


def test_a_foreign_list_becomes_a_crate_and_what_is_wanted_takes_its_place(house: House) -> None:
    house.music = house.music / "Quay MUSIC"
    for number, name in enumerate(("House/Halyard", "House/Night Ferry", "Dub/Salt")):
        write_tags(house.song(name, bpm=110 + 7 * number), Tags(Path(name).name, "Ilva Dune"))
    house.bring_in()
    new = house.song("Dub/On the disk only", bpm=140)
    path = house.music / "lists" / "friday.m3u"
    path.parent.mkdir()
    lines = (
        "#EXTM3U", r"D:\Musik\House\Halyard.mp3", "#EXTINF:9,Kelp Union - Not bought yet",
        r"D:\Musik\House\Not bought yet.mp3", r"D:\Musik\DUB\on the disk only.MP3",
        r"E:\elsewhere\House\Night Ferry.mp3", "#EXTINF:9,Ilva Dune - SALT", "gone/another name.mp3",
        "/dev/zero.wav", "../../../../../../etc/passwd.mp3", r"D:\Musik\HOUSE\halyard.mp3",
    )  # fmt: skip
    path.write_text("\n".join(lines))
    lister = house.services.lister
    look = lister.look(path, ListChoice())
    assert look.counts == {"wanted": 7, "by name": 1}
    best = look.proposals[0]
    assert (best.mapping, best.finds) == (PathMapping("D:/Musik", str(house.music)), 2)
    choice = ListChoice(tuple(each.mapping for each in look.proposals))
    assert lister.look(path, choice).counts == {"here": 3, "on disk": 1, "by name": 1, "wanted": 3}
    crate_id, job = lister.bring_in(path, choice, "Friday")
    assert crate_id is not None
    report = house.reasons(house.wait(job))
    assert titles(house, crate_id) == ["Halyard", "On the disk only", "Night Ferry", "Salt"]
    assert report[new.name][0] == "added" and "“Friday”" in report[new.name][1]
    assert report["passwd.mp3"][0] == report["zero.wav"][0] == "wanted"
    assert "outside the folders" in report["zero.wav"][1]
    first, *_ = wanted.list_wanted(house.database.read(), crate_id)
    assert (first.title, first.number, first.after) == ("Not bought yet", 2, "Halyard")
    write_tags(house.song("New/bought", bpm=97), Tags("Not bought yet (Original Mix)", "KELP UNION"))
    house.bring_in()
    assert titles(house, crate_id)[1] == "Not bought yet (Original Mix)"
    assert len(wanted.list_wanted(house.database.read(), crate_id)) == 2
    with house.database.write() as connection:
        assert undo.step_back(connection, "undo").name == "Bring in the playlist “Friday”"
    assert not crates.list_crates(house.database.read())
    with house.database.write() as connection:
        undo.step_back(connection, "redo")
    assert len(titles(house, crate_id)) == 5
    with house.database.write("Delete") as connection:
        crates.delete_crate(connection, crate_id)
    assert not house.database.read().execute("SELECT 1 FROM wanted").fetchone()


def test_a_listed_copy_of_a_track_takes_its_place_too(house: House) -> None:
    song = house.song("Halyard")
    house.bring_in()
    (house.music / "Halyard again.mp3").write_bytes(song.read_bytes())
    path = house.music / "copies.m3u"
    path.write_text("Halyard again.mp3\n")
    assert house.services.lister.look(path, ListChoice()).counts == {"on disk": 1}
    crate_id, job = house.services.lister.bring_in(path, ListChoice(), "Copies")
    outcome, reason = house.reasons(house.wait(job))["Halyard again.mp3"]
    assert outcome == "already here" and "very same sound" in reason and "“Copies”" in reason
    assert crate_id and titles(house, crate_id) == ["Halyard"]
    assert not wanted.list_wanted(house.database.read(), crate_id)


def test_a_cue_sheet_offers_its_tracks_as_cues_of_the_file(house: House) -> None:
    for name in ("known", "new"):
        house.song(name, bpm=100 + len(name))
        if name == "known":
            house.bring_in()
        sheet = house.music / f"{name}.cue"
        sheet.write_text(
            f'FILE "{name}.mp3" MP3\nTRACK 01 AUDIO\nTITLE "A"\nINDEX 01 00:00:00\n'
            'TRACK 02 AUDIO\nTITLE "B"\nINDEX 01 00:05:15\n'
        )
        crate_id, job = house.services.lister.bring_in(sheet, ListChoice(), "sheet")
        house.wait(job)
        track_id = house.rows()[name]["id"]
        marks = analyses.chapters_of(house.database.read(), track_id)
        assert crate_id is None and [(mark.time_s, mark.label) for mark in marks] == [(0.0, "A"), (5.2, "B")]


def test_a_table_and_a_list_of_fifty_thousand_lines(house: House) -> None:
    write_tags(house.song("Halyard"), Tags("Halyard", "Ilva Dune"))
    house.bring_in()
    table = house.music / "set.csv"
    table.write_text("Ilva Dune,Halyard\nKelp Union,Sluice\n")
    columns = ListChoice(columns=Columns(artist=0, title=1))
    assert house.services.lister.look(table, columns).counts == {"by name": 1, "wanted": 1}
    long = house.music / "long.m3u8"
    long.write_text("".join(f"#EXTINF:1,A - {n}\nX:\\lost\\{n}.mp3\n" for n in range(50_000)))
    assert house.services.lister.look(long, ListChoice()).counts == {"wanted": 50_000}
    crate_id, job = house.services.lister.bring_in(long, ListChoice(), "Long")
    assert house.wait(job).result["wanted"] == 50_000
    assert crates.get_crate(house.database.read(), crate_id or 0).wanted == 50_000
    assert len(wanted.list_wanted(house.database.read(), crate_id or 0)) == wanted.MOST_LISTED
