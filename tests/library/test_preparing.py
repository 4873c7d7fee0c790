"""Locks, templates, routes and choices as the library keeps them."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from tests.library.making import new_track
from tests.signals import drum_loop
from vinyl.api.convert import route_out
from vinyl.core.analysis import Analysis, analyse
from vinyl.core.cues.cue import Cue
from vinyl.core.cues.routes import Jump, RouteError
from vinyl.core.cues.templates import TemplateCue
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.rules.finishing import FinishRules
from vinyl.core.tonal.key import Key
from vinyl.library import analyses, choices, cues, grids, locks, routes, templates, tracks
from vinyl.library.connections import connect
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError, LockedError, NotFoundError
from vinyl.library.waveforms import WaveformStore


@pytest.fixture(scope="module")
def heard() -> Analysis:
    return analyse(drum_loop(124.0, 0.3, 20.0))


@pytest.fixture
def database(tmp_path: Path, heard: Analysis) -> Database:
    """Two analysed tracks and one that is not."""
    made = Database.prepared(tmp_path / "library.db")
    with made.write() as connection:
        for name in ("Anchor", "Buoy", "Cleat"):
            new_track(connection, name, duration_s=20.0)
        for track_id in (1, 2):
            analyses.store(connection, track_id, heard)
    return made


def moved(heard: Analysis) -> Analysis:
    """Another result: an octave lower, another key."""
    assert heard.grid is not None
    grid = replace(heard.grid, tempo_map=TempoMap.steady(62.0, 1.0), doubt=0.9)
    return replace(heard, grid=grid, key=replace(heard.key, key=Key(3, "major"), confidence=0.5))


def test_a_new_analysis_leaves_locked_grid_and_key_as_they_are(database: Database, heard: Analysis) -> None:
    with database.write() as connection:
        locks.set_lock(connection, [1], "grid", True)
        locks.set_lock(connection, [2], "key", True)
        before = {i: dict(tracks.get_track(connection, i)) for i in (1, 2)}
        for track_id in (1, 2):
            analyses.store(connection, track_id, moved(heard))
        after = {i: dict(tracks.get_track(connection, i)) for i in (1, 2)}
        first, second = grids.get_grid(connection, 1), grids.get_grid(connection, 2)
    assert first is not None and heard.grid is not None and first.tempo_map == heard.grid.tempo_map
    assert [after[1][name] == before[1][name] for name in ("bpm", "doubt")] == [True] * 2
    assert after[1]["key"] == "Eb major"
    assert second is not None and second.tempo_map.bpm == 62.0
    assert (after[2]["key"], after[2]["key_confidence"]) == (before[2]["key"], before[2]["key_confidence"])


def test_locked_parts_refuse_every_writer_and_open_again(database: Database) -> None:
    with database.write() as connection:
        with pytest.raises(LibraryError, match="no beatgrid to lock"):
            locks.set_lock(connection, [3], "grid", True)
        assert locks.set_lock(connection, [2, 3], "grid", True) == 1, "the other has none"
        assert locks.count_locks(connection, [1, 2, 3])["grid"] == 1
        cue = cues.add_cue(connection, 1, Cue(2.0, pad=2))
        for part in ("grid", "cues", "tags"):
            locks.set_lock(connection, [1], part, True)  # type: ignore[arg-type]
        writers = (
            lambda: grids.set_grid(connection, 1, TempoMap.steady(100, 0)),
            lambda: grids.drop_hand_grid(connection, 1),
            lambda: cues.add_cue(connection, 1, Cue(3.0)),
            lambda: cues.change_cue(connection, 1, Cue(3.0, id=cue)),
            lambda: cues.delete_cues(connection, 1, [cue]),
            lambda: cues.number_pads(connection, 1),
            lambda: tracks.rate(connection, [1], 1),
        )
        for write in writers:
            with pytest.raises(LockedError, match="locked"):
                write()
        assert tracks.rate(connection, [1, 2], 5) == 1, "of several, only the open ones are rated"
        assert [tracks.get_track(connection, i)["rating"] for i in (1, 2)] == [3, 5]
        locks.set_lock(connection, [1], "cues", False)
        cues.number_pads(connection, 1)
        assert cues.get_cue(connection, 1, cue).pad == 1


def test_templates_count_from_set_cues_before_proposals(database: Database) -> None:
    with database.write() as connection:
        saved = templates.save_template(connection, "  Ready ", [TemplateCue("main", -8.0, label="ready")])
        template = templates.get_template(connection, saved)
        assert template.name == "Ready"
        cues.add_cue(connection, 1, Cue(12.0, role="main"))
        results = templates.preview(connection, template, [1, 2, 3])
        here, untouched, without = results
        templates.apply(connection, results)
        assert len(here.wanted) == 1 and here.wanted[0].position_s == pytest.approx(
            12.0 - 8 * 60 / 124.0, abs=0.01
        )
        assert untouched.hindrance or untouched.wanted
        assert without.hindrance == "it has no beatgrid yet"
        assert len(cues.list_cues(connection, 1)) == 2
        with pytest.raises(LibraryError, match="needs a name"):
            templates.save_template(connection, " ", [TemplateCue("main")])
        templates.delete_template(connection, saved)
        with pytest.raises(NotFoundError):
            templates.get_template(connection, saved)


def test_routes_are_checked_against_the_track(database: Database) -> None:
    with database.write() as connection:
        kept = routes.save_route(connection, 1, "Short", [Jump(5.0, 12.0)])
        routes.save_route(connection, 1, "Shorter", [Jump(4.0, 15.0)], kept)
        assert [(r.name, r.jumps) for r in routes.list_routes(connection, 1)] == [
            ("Shorter", (Jump(4.0, 15.0),))
        ]
        for name, jumps, error in (
            ("x", [Jump(5.0, 21.0)], RouteError),
            ("x", [], LibraryError),
            (" ", [Jump(5.0, 9.0)], LibraryError),
        ):
            with pytest.raises(error):
                routes.save_route(connection, 1, name, jumps)
        with pytest.raises(NotFoundError):
            routes.get_route(connection, 2, kept)
        assert tracks.get_track(connection, 1)["route_count"] == 1


def test_choices_are_kept_and_labels_learn_from_use(database: Database) -> None:
    rules = FinishRules("locked", False, 4, ("in", "out"), True)
    with database.write() as connection:
        choices.set_finish_rules(connection, rules)
        for position in (1.0, 2.0, 3.0):
            cues.add_cue(connection, 1, Cue(position, label="Strings" if position < 3 else "verse"))
        choices.name_colours(connection, [choices.CueColour("blue", " ", "long")])
    again = connect(database.path)
    assert choices.get_finish_rules(again) == rules
    assert choices.list_labels(again)[:2] == ["Strings", "verse"]
    assert choices.list_labels(again).count("verse") == 1
    assert choices.CueColour("blue", "blue", "lo") in choices.list_colours(again)


def test_stored_onsets_come_back_and_old_ones_say_what_to_do(tmp_path: Path, heard: Analysis) -> None:
    store = WaveformStore(tmp_path)
    store.store(7, heard.waveform)
    onsets = store.onsets(7)
    assert np.allclose(onsets.onset_times.times_s, heard.waveform.onset_times.times_s, atol=1e-5)
    assert np.array_equal(onsets.high, heard.waveform.onset_high)
    with pytest.raises(NotFoundError):
        store.onsets(8)


def test_a_route_outlives_a_track_that_turns_out_a_hair_shorter() -> None:
    kept = routes.Route(1, 1, "Short", (Jump(5.0, 12.0), Jump(20.0, 19.99)))
    shown = route_out(kept, 19.98)
    assert [stretch.start_s for stretch in shown.stretches] == [0.0, 12.0, 19.99]
