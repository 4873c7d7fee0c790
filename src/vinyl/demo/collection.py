"""Making the demo collection on disk: audio in many formats, odd files, and the truth beside them."""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, as_completed
from dataclasses import replace
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np

from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.demo.pictures import sleeve
from vinyl.demo.render import render
from vinyl.demo.scenario import SONGS, Song
from vinyl.demo.score import Score, write_score
from vinyl.demo.styles import STYLES
from vinyl.media.decode import decode
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.tags import Tags, write_tags

VERSION, STAMP = "1", "complete"
TRUNCATED = ("Gull Telemetry", "Gull Telemetry (cut off).mp3", 0.4)
COPIED = ("Copper Tide", "Copper Tide 1.mp3")
TEXT, EMPTY = "tracklist slipway friday.mp3", "promo (unfinished download).mp3"
# A song, the name of an edit of it, and from where to where (seconds) that leaves out.
EDITED = ("Glasswort", "Glasswort (short)", 52.0, 118.0)
SECOND_FORMAT = ("Rigging", "flac", "Rigging (lossless)")


def make_collection(
    folder: Path, progress: Callable[[int, int], None] | None = None, workers: int | None = None
) -> Path:
    """Make ``folder/music`` and ``folder/truth.json``, or leave them if they are whole. Returns the music folder."""
    if is_whole(folder):
        return folder / "music"
    with ProcessPoolExecutor(workers or os.cpu_count(), mp_context=get_context("spawn")) as pool:
        longest_first = sorted(SONGS, key=lambda song: (song.form != "mp3", -song.seconds))
        pending = [pool.submit(make_song, song, folder) for song in longest_first]
        for done, future in enumerate(as_completed(pending), start=1):
            future.result()
            if progress:
                progress(done, len(pending))
    odd_files(folder)
    finish(folder)
    return folder / "music"


def is_whole(folder: Path) -> bool:
    """Whether all songs are made, as they are made now."""
    stamp = folder / STAMP
    return stamp.exists() and stamp.read_text() == VERSION


def make_song(song: Song, folder: Path) -> None:
    """Render one song to its file, and to a second format where the scenario has one, unless that was done; what
    is true of it is written down last.
    """
    if _truth_file(folder, song).exists():
        return
    music = folder / "music"
    score = write_score(song)
    samples = render(score)
    copies = [(song.form, _file_name(song))]
    if song.title == SECOND_FORMAT[0]:
        copies.append((SECOND_FORMAT[1], SECOND_FORMAT[2]))
    truths = []
    for form, name in copies:
        path = music / song.folder / (name + ENCODINGS[form].suffix)
        path.parent.mkdir(parents=True, exist_ok=True)
        encode(samples, 44100, path, form)
        _tag(path, song)
        truths.append(_truth(score, path.relative_to(music), samples.shape[1] / 44100))
    _truth_file(folder, song).parent.mkdir(exist_ok=True)
    _truth_file(folder, song).write_text(json.dumps(truths, ensure_ascii=False))


def made_of(folder: Path, song: Song) -> list[dict[str, Any]]:
    """What is true of each file of a song that is made."""
    found: list[dict[str, Any]] = json.loads(_truth_file(folder, song).read_text())
    return found


def finish(folder: Path) -> None:
    """Write down what is true of all songs, and that they are whole."""
    truths = [truth for song in SONGS for truth in made_of(folder, song)]
    (folder / "truth.json").write_text(
        json.dumps(sorted(truths, key=lambda t: str(t["path"])), ensure_ascii=False, indent=1)
    )
    (folder / STAMP).write_text(VERSION)


def _truth_file(folder: Path, song: Song) -> Path:
    return folder / f"truth {VERSION}" / f"{song.seed}.json"


def _file_name(song: Song) -> str:
    return (
        song.title.replace("/", "-")
        if song.title.isascii() and song.tags == "full"
        else f"{song.artist} - {song.title}"
    )


def _tag(path: Path, song: Song) -> None:
    if song.tags == "none":
        return
    if song.tags == "some":
        write_tags(path, Tags(title=song.title))
        return
    picture = sleeve(sum(map(ord, song.album))) if song.picture else None
    genre = STYLES[song.style].genre
    write_tags(
        path,
        Tags(
            song.title,
            song.artist,
            song.album,
            genre,
            "Slipway Records",
            year=song.year,
            rating=song.rating,
            picture=picture,
        ),
    )


def _truth(score: Score, path: Path, duration_s: float) -> dict[str, Any]:
    tempo_map, metre = score.tempo_map, score.tempo_map.beats_per_bar
    beats = tempo_map.time_at(range(score.end_beat + 1))
    return {
        "path": path.as_posix(),
        "style": score.song.style,
        "key": score.song.key,
        "kind": tempo_map.kind,
        "bpm": score.song.bpm,
        "beats_per_bar": metre,
        "duration_s": duration_s,
        "anchors": anchors_to(tempo_map),
        "beats": [round(float(t), 6) for t in beats],
        "sections": [
            [round(float(tempo_map.time_at(s.first_bar * metre)), 6), s.label] for s in score.sections
        ],
    }


def odd_files(folder: Path) -> list[Path]:
    """What a real download folder has too: a file cut off, text and nothing named .mp3, a second download, an
    edit. Returns their paths.
    """
    music = folder / "music"
    paths = {path.stem: path for path in music.rglob("*.mp3")}
    title, name, share = TRUNCATED
    whole = paths[title].read_bytes()
    cut_off, text, empty = (music / "Downloads" / each for each in (name, TEXT, EMPTY))
    cut_off.write_bytes(whole[: int(len(whole) * share)])
    title, name = COPIED
    copy = paths[title].with_name(name)
    shutil.copyfile(paths[title], copy)
    text.write_text("23:00 Lantern Weather\n23:06 Copper Tide\n23:11 ...\n")
    empty.write_bytes(b"")
    return [cut_off, copy, text, empty, _edit_of(paths[EDITED[0]])]


def _edit_of(path: Path) -> Path:
    """A shorter edit of a song, beside it."""
    title, name, out_s, in_s = EDITED
    song = next(each for each in SONGS if each.title == title)
    samples = decode(path).samples
    short = np.hstack([samples[:, : round(out_s * 44100)], samples[:, round(in_s * 44100) :]])
    edit = path.with_name(f"{name}{path.suffix}")
    encode(short, 44100, edit, song.form)
    _tag(edit, replace(song, title=name))
    return edit
