"""How music comes in: a folder with the mess of years, and a playlist of another computer."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server
from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, read_tags, write_tags


@pytest.fixture
def you(browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(browser, server)


def song(path: Path, title: str, artist: str = "Ilva Dune", bpm: float = 120.0) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    encode(drum_loop(bpm, 0.5, 8.0), RATE_HZ, path, path.suffix[1:])
    write_tags(path, Tags(title, artist))
    return path


def choose(you: Hands, folder: Path) -> None:
    """Go to a folder in the chooser."""
    you.write_in("[role=dialog] input", *str(folder), Keys.ENTER)
    you.see_text("one folder up")


def drop(you: Hands, name: str, size_bytes: int) -> None:
    """Let a file go over the window, of which the browser tells name and size."""
    you.browser.execute_script(
        "const held = new DataTransfer();"
        "held.items.add(new File([new Uint8Array(arguments[1])], arguments[0]));"
        "for (const type of ['dragover', 'drop'])"
        "  window.dispatchEvent(new DragEvent(type, { dataTransfer: held, cancelable: true }));",
        name,
        size_bytes,
    )


def test_a_foreign_playlist_becomes_a_crate_with_what_is_wanted_in_its_place(
    you: Hands, server: Server, tmp_path: Path
) -> None:
    music = tmp_path / "music"
    song(music / "House" / "Halyard.mp3", "Halyard")
    song(music / "House" / "Night Ferry.mp3", "Night Ferry", bpm=126)
    server.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: server.has_ended("import"), "the import")
    song(music / "Dub" / "Salt.flac", "Salt", bpm=90)
    (music / "friday.m3u8").write_text(
        "#EXTM3U\n#PLAYLIST:Friday at the quay\nD:\\Musik\\House\\Halyard.mp3\n"
        "#EXTINF:200,Kelp Union - Sluice\n"
        "D:\\Musik\\House\\Sluice.mp3\nD:\\Musik\\Dub\\Salt.flac\nD:\\Musik\\House\\Night Ferry.mp3\n",
        encoding="utf-16",
    )
    you.go("/arrivals")
    you.press_button("Choose a folder, files or a playlist")
    choose(you, music)
    you.press_button("friday.m3u8")
    you.see_text("4 entries: 4 not found, kept as wanted")
    you.see_text("Written in UTF-16")
    you.press_button("D:/Musik")
    you.see_text("4 entries: 2 in the library, 1 to be imported, 1 not found, kept as wanted")
    you.press_button("Make a crate, import 1 file")
    you.see_text("1 added, 2 already here, 1 wanted")
    you.go("/crates")
    you.see_text("Friday at the quay")
    wait_for(
        lambda: you.titles() == ["Halyard", "Salt", "Night Ferry"], lambda: f"the crate, not {you.titles()}"
    )
    you.see_text("1 entry wanted")
    assert "Kelp Union – Sluice" in you.text("[aria-label=Wanted]") and "after “Halyard”" in you.text()
    song(music / "new" / "Sluice.mp3", "Sluice", "Kelp Union", 133)
    server.send("POST", "/api/imports", {"paths": [str(music / "new")]})
    wait_for(
        lambda: you.titles() == ["Halyard", "Sluice", "Salt", "Night Ferry"],
        lambda: f"the wanted track in its place, not {you.titles()}",
        30,
    )
    assert "wanted" not in you.text("main") and not you.complaints()


def test_single_files_and_a_table_whose_columns_are_chosen(
    you: Hands, server: Server, tmp_path: Path
) -> None:
    music = tmp_path / "music"
    song(music / "One.mp3", "One")
    song(music / "Two.mp3", "Two", bpm=128)
    (music / "set.csv").write_text("23:00;One;Ilva Dune\n23:05;Three;Ilva Dune\n")
    you.go("/arrivals")
    you.press_button("Choose a folder, files or a playlist")
    choose(you, music)
    you.press_button("Two.mp3")
    you.press_button("Add 1 file")
    you.see_text("1 added")
    assert [track["title"] for track in server.tracks()] == ["Two"]
    you.press_button("Choose a folder, files or a playlist")
    choose(you, music)
    you.press_button("set.csv")
    for name, column in (("artist", "column 3"), ("title", "column 2")):
        you.click(f"[aria-label='Column of the {name}']")
        you.press_option(column)
    you.see_text("2 entries: 2 not found, kept as wanted")
    you.press_button("Cancel")
    drop(you, "One.mp3", (music / "One.mp3").stat().st_size)
    wait_for(
        lambda: set(server.ids()) == {"One", "Two"}, "what was dropped to be found beside its neighbour", 30
    )
    drop(you, "Nowhere.mp3", 12345)
    you.see_text("Nowhere.mp3 could not be found: a browser does not tell where files lie")


def test_tags_are_written_after_a_preview_and_put_back(you: Hands, server: Server, tmp_path: Path) -> None:
    path = song(tmp_path / "music" / "Halyard.mp3", "Halyard")
    write_tags(path, Tags(comment="from the quay"))
    before = path.read_bytes()
    server.send("POST", "/api/imports", {"paths": [str(path)]})
    wait_for(lambda: server.has_ended("import", "analysis"), "the analysis")
    you.go("/shelf")
    you.row("Halyard").click()
    you.chord(Keys.SHIFT, "w")
    you.see_text("Write into 1 file")
    you.see_text("The sound is not touched")
    you.click("[aria-label='Into the comment'] button:nth-of-type(2)")
    wait_for(lambda: "BPM · from the quay" in you.text("[role=dialog]"), "the comment as it will be")
    you.see("[aria-label='Name of the file']").send_keys("{artist} - {title}")
    you.see_text("Ilva Dune - Halyard.mp3")
    assert path.read_bytes() == before, "nothing is written by looking"
    you.press_button("Write into 1 file")
    written = path.with_name("Ilva Dune - Halyard.mp3")
    wait_for(lambda: written.exists() and not path.exists(), "the file under its new name")
    wait_for(lambda: server.has_ended("write"), "the writing")
    tags = read_tags(written)
    assert tags.bpm and tags.comment == f"{tags.bpm:.2f} BPM · from the quay" and tags.title == "Halyard"
    you.press_button("Work")
    you.press_button("Put the old tags back")
    wait_for(lambda: path.exists() and path.read_bytes() == before, "the file as it was, to the byte")
    assert not you.complaints()


def test_a_drive_goes_away_comes_back_and_is_found_under_another_name(
    you: Hands, server: Server, tmp_path: Path
) -> None:
    drive = tmp_path / "drive"
    for number, title in enumerate(("Halyard", "Night Ferry")):
        song(drive / f"{title}.mp3", title, bpm=110 + 9 * number)
    server.send("POST", "/api/imports", {"paths": [str(drive)]})
    wait_for(lambda: server.has_ended("import", "analysis"), "the analysis")
    crate = server.send("POST", "/api/crates", {"name": "Friday"})["id"]
    server.send("POST", f"/api/crates/{crate}/tracks", {"ids": sorted(server.ids().values())})
    for there, words in ((tmp_path / "unplugged", "2 tracks are not there"), (drive, "")):
        server.stop()
        (drive if words else tmp_path / "unplugged").rename(there)
        server.start()
        you.go("/crates")
        wait_for(
            lambda: sorted(you.titles()) == ["Halyard", "Night Ferry"], "nothing is dropped from the crate"
        )
        away = 2 if words else 0
        wait_for(lambda n=away: sum("away" in row for row in you.texts("[data-track]")) == n, f"{away} away")
    server.stop()
    drive.rename(tmp_path / "other drive")
    (tmp_path / "other drive" / "Halyard.mp3").rename(tmp_path / "other drive" / "01.mp3")
    server.start()
    you.go("/arrivals")
    you.see_text("The files of 2 tracks are not there")
    you.press_button("Look for them in a folder")
    choose(you, tmp_path / "other drive")
    you.press_button("Look here")
    you.press_button("See what was found")
    you.see_text("the same sound")
    you.press_button("These are the files of 2 tracks")
    wait_for(lambda: server.get("/api/away")["tracks"] == 0, "both tracks to be there again")
    assert {Path(track["path"]).name for track in server.tracks()} == {"01.mp3", "Night Ferry.mp3"}
    wait_for(lambda: "are not there" not in you.text(), "the notice gone")
    assert not you.complaints()


def test_another_source_is_preferred_after_a_preview(you: Hands, server: Server, tmp_path: Path) -> None:
    path = song(tmp_path / "music" / "Halyard.mp3", "Halyard", bpm=120)
    write_tags(path, Tags(bpm=97.0))
    server.send("POST", "/api/imports", {"paths": [str(path)]})
    wait_for(lambda: server.has_ended("import", "analysis"), "the analysis")
    (track,) = server.tracks()
    assert round(track["bpm"]) == 120
    energy = track["energy"]
    write_tags(path, Tags(comment=f"Energy {9 if energy != 90 else 4}"))
    server.send("POST", "/api/tracks/tags/again", {"ids": [track["id"]]})
    wait_for(lambda: server.has_ended("tags"), "the tags read again")
    you.go(f"/workbench/{track['id']}")
    you.press_button("Track")
    you.press_button("Sources…")
    you.press_button("Prefer file tag for energy")
    you.see_text("1 track would have another value")
    assert server.tracks()[0]["energy"] == energy, "a preview changes nothing"
    you.press_button("Change 1 track")
    wait_for(lambda: server.tracks()[0]["energy"] in (40, 90), "the value of the file")
    you.press_button("Close")
    you.press_button("Undo")
    wait_for(lambda: server.tracks()[0]["energy"] == energy, "the rule taken back")
    assert not you.complaints()
