"""Writing into the files of the library: planned, done, interrupted, taken back."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from unittest.mock import Mock

import pytest

from tests.jobs.test_background import House
from tests.patience import wait_for
from vinyl.core.cues.cue import Cue
from vinyl.core.tag_form import WriteForm
from vinyl.jobs import tag_writing
from vinyl.library import cues, jobs, tracks
from vinyl.library.jobs import Job
from vinyl.library.values import Value, put
from vinyl.media.rewriting import sound_of
from vinyl.media.tag_plans import WrittenFile
from vinyl.media.tags import Tags, read_tags, write_tags

FORM = WriteForm(frozenset({"title", "key", "stars"}), "short", 0, ("key",), "after", cues=True)


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    for number, form in enumerate(("mp3", "flac", "m4a")):
        write_tags(
            made.song(f"Song {form}", form, 110 + number), Tags(f"Song {form}", comment="mine", rating=2)
        )
    made.song("bare", "wav", 130)
    made.services.start()
    made.bring_in()
    made.analysed()
    yield made
    made.services.stop()


def ids(house: House) -> dict[str, int]:
    return {title: row["id"] for title, row in house.rows().items()}


def test_what_is_planned_is_written_and_can_be_put_back(house: House) -> None:
    known = ids(house)
    with house.database.write("by hand") as connection:
        put(connection, list(known.values()), "by hand", {"key": Value("A minor"), "stars": Value("5")})
        cues.add_cue(connection, known["Song flac"], Cue(1.5, label="In"))
    paths = {title: Path(row["path"]) for title, row in house.rows().items()}
    before = {title: (path.read_bytes(), sound_of(path).packet_hash) for title, path in paths.items()}
    writer = house.services.tag_writer
    plans = {plan.name: plan for plan in writer.plan(list(known.values()), FORM, "{title} ({key})")}
    assert {c.field: (c.before, c.after) for c in plans["Song flac.flac"].changes} == {
        "key": (None, "Am"),
        "stars": ("2", "5"),
        "comment": ("mine", "mine · Am"),
        "chapters": (None, "In at 1.50 s"),
    }
    assert plans["Song m4a.m4a"].new_name == "Song m4a (Am).m4a"
    paths["bare"].write_bytes(paths["bare"].read_bytes() + b"LIST\x04\x00\x00\x00INFO")
    (house.music / "Song mp3 (Am).mp3").write_bytes(b"taken")
    job = house.wait(writer.add(list(known.values()), FORM, "{title} ({key})"))
    assert job.result == {"written": 3, "unchanged": 0} and job.failures == 1, (
        "the one that was changed since"
    )
    for title in ("Song mp3", "Song flac", "Song m4a"):
        path = Path(house.rows()[title]["path"])
        tags = read_tags(path)
        assert (tags.key, tags.rating, tags.comment) == ("Am", 5, "mine · Am")
        assert sound_of(path).packet_hash == before[title][1]
        assert path.stem == (title if title == "Song mp3" else f"{title} (Am)"), "a taken name is left alone"
    again = house.bring_in()
    assert house.reasons(again)["Song flac (Am).flac"][0] == "already here", "Vinyl knows what it wrote"
    back = house.wait(writer.add_putting_back(job))
    assert back.result == {"written": 3, "unchanged": 0}
    for title in ("Song mp3", "Song flac", "Song m4a"):
        assert paths[title].read_bytes() == before[title][0]
        assert house.rows()[title]["path"] == str(paths[title])
    assert not writer.can_put_back(job)


def test_a_writing_that_was_broken_off_goes_on_where_it_was(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    known = [track_id for title, track_id in ids(house).items() if title != "bare"]
    writer, done = house.services.tag_writer, []
    take_in = writer._take_in

    def then_stop(each: object) -> None:
        done.append(each)
        raise RuntimeError("killed between the file and the library")

    monkeypatch.setattr(writer, "_take_in", then_stop)
    form = WriteForm(frozenset({"title"}), results=("tempo",))
    job = house.wait(writer.add(known, form, ""), "failed")
    monkeypatch.setattr(writer, "_take_in", take_in)
    first = Path(house.rows()["Song mp3"]["path"])
    comments = [read_tags(Path(row["path"])).comment for row in house.rows().values()]
    assert sum("BPM" in comment for comment in comments) == 1 and len(done) == 1
    with house.database.write() as connection:
        connection.execute("UPDATE job SET state = 'waiting', finished_at = NULL WHERE id = ?", (job.id,))
    house.services.runner._wake_up("files")
    house.wait(job)
    assert all(
        "BPM" in read_tags(Path(row["path"])).comment
        for title, row in house.rows().items()
        if title != "bare"
    )
    house.wait(writer.add_putting_back(house.services.runner.get(job.id)))
    assert read_tags(first).comment == "mine"
    assert tag_writing.form_of(tag_writing.form_json(form)) == form


def test_what_was_written_into_a_name_is_never_read_as_title(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    track_id, writer, form = (
        ids(house)["bare"],
        house.services.tag_writer,
        WriteForm(frozenset({"key"}), "short"),
    )
    pattern = "{title} - {key}"

    def key_is(key: str) -> None:
        with house.database.write("by hand") as connection:
            put(connection, [track_id], "by hand", {"key": Value(key)})

    def write() -> Job:
        return house.wait(writer.add([track_id], form, pattern))

    def name() -> str:
        return Path(str(tracks.get_file(house.database.read(), track_id)["path"])).name

    def title() -> str:
        house.wait(house.services.rereader.add([track_id]))
        return str(tracks.get_track(house.database.read(), track_id)["title"])

    key_is("A minor")
    first = write()
    assert (name(), title()) == ("bare - Am.wav", "bare")
    key_is("C minor")
    with monkeypatch.context() as killed:
        killed.setattr(writer, "_take_in", Mock(side_effect=RuntimeError("killed after the renaming")))
        house.wait(writer.add([track_id], form, pattern), "failed")
    assert (house.music / "bare - Cm.wav").exists() and name() == "bare - Am.wav"
    last = max(jobs.list_jobs(house.database.read()), key=lambda job: job.id)
    with house.database.write() as connection:
        connection.execute("UPDATE job SET state = 'waiting', finished_at = NULL WHERE id = ?", (last.id,))
    house.services.runner._wake_up("files")
    assert house.wait(last).failures == 0
    assert (name(), title()) == ("bare - Cm.wav", "bare"), "the ending is written once"
    assert writer.plan([track_id], form, pattern)[0].new_name is None
    (house.music / "bare - Cm.wav").rename(house.music / "Kelp - Salt.wav")
    house.bring_in()
    assert (name(), title()) == ("Kelp - Salt.wav", "Salt"), "a name by hand counts"
    assert writer.can_put_back(first)


def test_a_writing_that_was_cancelled_can_be_put_back(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    known = [track_id for title, track_id in ids(house).items() if title != "bare"]
    writer, take_in = house.services.tag_writer, house.services.tag_writer._take_in
    begun: list[int] = []

    def then_cancel(each: WrittenFile) -> None:
        take_in(each)
        wait_for(lambda: begun, "the number of the job")
        house.services.runner.cancel(begun[0])

    monkeypatch.setattr(writer, "_take_in", then_cancel)
    job = writer.add(known, WriteForm(results=("tempo",)), "")
    begun.append(job.id)
    cancelled = house.wait(job, "cancelled")
    wait_for(lambda: house.services.runner.get(job.id).result, "what was written")
    monkeypatch.setattr(writer, "_take_in", take_in)
    assert house.services.runner.get(cancelled.id).result == {"written": 1, "unchanged": 0}
    assert not list(house.music.glob(".*")), "nothing half written is left"
    house.wait(writer.add_putting_back(house.services.runner.get(job.id)))
    assert all("BPM" not in read_tags(Path(row["path"])).comment for row in house.rows().values())
