"""A night as a file for others: a track list, a playlist, a cue sheet for its recording, a table for
royalties.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from vinyl.exchange.errors import ListError
from vinyl.exchange.lists.cue_sheet import FRAMES_A_SECOND, quoted
from vinyl.exchange.lists.m3u import as_line
from vinyl.exchange.lists.table import safe_cell
from vinyl.exchange.lists.text import can_stand, one_line

Form = Literal["text", "m3u8", "cue", "csv"]
FORMS: tuple[Form, ...] = ("text", "m3u8", "cue", "csv")
SUFFIXES: dict[Form, str] = {"text": ".txt", "m3u8": ".m3u8", "cue": ".cue", "csv": ".csv"}
# As many as a cue sheet can have.
MOST_CUE_TRACKS = 99
HEAD = ("artist", "title", "label", "ISRC", "composer", "played at", "ends at", "length")


@dataclass(frozen=True, slots=True)
class NightTrack:
    """A play as it goes out; what is not known is empty or None. Times are by the clock on the wall."""

    artist: str
    title: str
    label: str = ""
    isrc: str = ""
    composer: str = ""
    path: str = ""
    duration_s: float | None = None
    began: datetime | None = None
    ended: datetime | None = None


@dataclass(frozen=True, slots=True)
class NightFile:
    """A file's text, and in words what could not be said in it."""

    text: str
    left_out: tuple[str, ...] = ()


def write_night(
    form: Form, name: str, tracks: Sequence[NightTrack], times: bool = True, recording: str = "recording.wav",
    began: datetime | None = None,
) -> NightFile:  # fmt: skip
    """A night in one of the forms.

    Args:
        times: for a track list, whether it tells when each began.
        recording: for a cue sheet, the name of the recording's file.
        began: when the recording began; with the first track if that is not known.

    Raises:
        ListError: if the form needs what is not known.
    """
    if form == "cue":
        return _cue_sheet(name, tracks, recording, began)
    writers: dict[str, Callable[[], NightFile]] = {
        "text": lambda: _text(name, tracks, times),
        "m3u8": lambda: _m3u8(name, tracks),
        "csv": lambda: _csv(tracks),
    }
    return writers[form]()


def _text(name: str, tracks: Sequence[NightTrack], times: bool) -> NightFile:
    lines = [name, ""]
    for track in tracks:
        clock = f"{track.began:%H:%M}  " if times and track.began else ""
        lines.append(f"{clock}{_said(track, ' – ')}")
    return NightFile("\n".join(lines) + "\n")


def _m3u8(name: str, tracks: Sequence[NightTrack]) -> NightFile:
    lines = ["#EXTM3U", "#EXTENC:UTF-8", f"#PLAYLIST:{one_line(name)}"]
    for track in tracks:
        if can_stand(track.path):
            lines += [f"#EXTINF:{round(track.duration_s or -1)},{_said(track, ' - ')}", as_line(track.path)]
        else:
            lines.append(f"# not on the Shelf: {_said(track, ' - ')}")
    missing = sum(not can_stand(track.path) for track in tracks)
    return NightFile("\n".join(lines) + "\n", (f"{missing} that have no file here",) if missing else ())


def _cue_sheet(name: str, tracks: Sequence[NightTrack], recording: str, began: datetime | None) -> NightFile:
    timed = [(track.began, track) for track in tracks if track.began is not None]
    if not timed:
        raise ListError("A cue sheet tells when each track began, and of this night no times are known.")
    start = min([at for at, _ in timed] + ([began] if began else []))
    lines = [f'TITLE "{quoted(name)}"', f'FILE "{quoted(recording)}" WAVE']
    for number, (at, track) in enumerate(timed[:MOST_CUE_TRACKS], 1):
        lines += [
            f"  TRACK {number:02} AUDIO",
            f'    TITLE "{quoted(track.title)}"',
            f'    PERFORMER "{quoted(track.artist)}"',
            *([f"    ISRC {track.isrc}"] if len(track.isrc) == 12 and track.isrc.isalnum() else []),
            f"    INDEX 01 {_frames((at - start).total_seconds())}",
        ]
    left_out = []
    if len(timed) < len(tracks):
        left_out.append(f"{len(tracks) - len(timed)} without a time")
    if len(timed) > MOST_CUE_TRACKS:
        left_out.append(
            f"{len(timed) - MOST_CUE_TRACKS} after the {MOST_CUE_TRACKS} that a cue sheet can have"
        )
    return NightFile("\n".join(lines) + "\n", tuple(left_out))


def _csv(tracks: Sequence[NightTrack]) -> NightFile:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(HEAD)
    for track in tracks:
        length = "" if track.duration_s is None else _length(track.duration_s)
        writer.writerow(
            map(safe_cell, (track.artist, track.title, track.label, track.isrc, track.composer,
                            _moment(track.began), _moment(track.ended), length))
        )  # fmt: skip
    return NightFile(out.getvalue())


def _said(track: NightTrack, dash: str) -> str:
    return one_line(dash.join(part for part in (track.artist, track.title) if part))


def _moment(at: datetime | None) -> str:
    return f"{at:%Y-%m-%d %H:%M:%S}" if at else ""


def _length(duration_s: float) -> str:
    return f"{int(duration_s) // 60}:{int(duration_s) % 60:02}"


def _frames(at_s: float) -> str:
    frames = round(at_s * FRAMES_A_SECOND)
    minutes, frames = divmod(frames, 60 * FRAMES_A_SECOND)
    return f"{minutes:02}:{frames // FRAMES_A_SECOND:02}:{frames % FRAMES_A_SECOND:02}"
