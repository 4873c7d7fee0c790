"""The demo music as a job: it comes in song by song, to where its DJ has it, and goes on after an end."""

from __future__ import annotations

import shutil
from pathlib import Path

from tests.patience import wait_for
from vinyl.demo.nights import has_nights, make_nights
from vinyl.demo.rooms import CRATES, CUED, DIVIDERS, MAIN, TAGGED, prepare_rooms
from vinyl.library import crates, cues, destinations, dividers, find, jobs, tags
from vinyl.library.clock import today
from vinyl.library.jobs import Job
from vinyl.operations.services import Services, Settings
from vinyl.sticks import store


def opened(home: Path) -> Services:
    return Services(Settings(home, home / "web", offered=(home / "demo" / "music",), workers=1, nice=0))


def titles_of(services: Services, crate_id: int) -> list[str]:
    read = services.database.read()
    by_id = {row["id"]: row["title"] for row in find.get_rows(read, crates.crate_tracks(read, crate_id))}
    return [by_id[track_id] for track_id in crates.crate_tracks(read, crate_id)]


def newest(services: Services) -> Job:
    return jobs.list_jobs(services.database.read(), ("demo",))[0]


def test_the_demo_goes_on_after_an_end_and_all_is_there_once(demo: Path, tmp_path: Path) -> None:
    demo_home = tmp_path / "home"
    shutil.copytree(demo, demo_home / "demo")
    services = opened(demo_home)
    for _ in range(2):  # as after a start that was ended before the nights were made
        prepare_rooms(services.database, demo_home)
        assert not has_nights(services.database)
    make_nights(services.database, today())
    services.demo.begin_once()
    assert services.demo.begin().id == newest(services).id, "there is one"
    services.start()
    wait_for(lambda: newest(services).done >= 4, "some songs")
    services.stop()

    again = opened(demo_home)
    again.start()
    job = wait_for(lambda: newest(again).state == "done" and newest(again), lambda: f"{newest(again)}")
    read = again.database.read()
    assert (job.done, job.failures, find.count(read)) == (33, 0, 35)
    ids = {name: crate_id for crate_id, name in crates.names(read)}
    assert {name: titles_of(again, ids[name]) for name in CRATES} == {n: list(t) for n, t in CRATES.items()}
    sections = dividers.list_sections(read, ids[MAIN])
    assert [(each.at, each.name) for each in sections] == [(at, name) for at, name, *_ in DIVIDERS[MAIN]]
    tracks = {
        row["title"]: row for row in find.get_rows(read, find.find_ids(read, find.ALL, find.Order("title")))
    }
    counted = {title: len(cues.list_cues(read, tracks[title]["id"])) for title in CUED}
    assert set(counted.values()) == {7}, "as many as it has places, once"
    given = {tag.name: tag.tracks for family in tags.list_families(read) for tag in family.tags}
    assert {name: given[name] for name in TAGGED} == {n: len(t) for n, (_, t) in TAGGED.items()}
    assert given["House"] > 5
    assert [stick.is_in for stick in (each.medium for each in store.list_sticks(read))] == [True, True]
    (destination,) = destinations.list_destinations(read)
    assert len(destination.told["lists"]) == 3
    assert (demo_home / "demo" / "From a friend").is_dir()
    again.demo.begin_once()
    assert len(jobs.list_jobs(read, ("demo",))) == 1, "it is made once"
    again.stop()
