"""Analysis: how it is done, asking for it, and comparing before anything is replaced."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.chosen import chosen_ids
from vinyl.api.convert import job_out
from vinyl.api.models.analysis import (
    AnalyseIn,
    AnalysisIn,
    AnalysisOut,
    HeardDifferenceOut,
    QueuedOut,
    StyleWindowOut,
    TakeIn,
    WindowBody,
)
from vinyl.api.models.jobs import JobOut
from vinyl.api.services import Use
from vinyl.core.analysis import VERSION
from vinyl.core.rhythm.windows import Window
from vinyl.jobs import comparing
from vinyl.library import queue, tracks
from vinyl.library.errors import LibraryError
from vinyl.library.queue import AnalysisChoice
from vinyl.operations import preparing

router = APIRouter(prefix="/api/analysis", tags=["analysis"])


@router.get("")
def get_analysis(use: Use) -> AnalysisOut:
    """How tracks are analysed, with the tempo windows of all styles."""
    read = use.database.read()
    choice = queue.get_choice(read)
    return AnalysisOut(
        arrival=choice.arrival,
        turn=choice.turn,
        waiting=queue.counts(read).waiting,
        heard_before=len(queue.heard_before(read, VERSION)),
        windows=[
            StyleWindowOut(
                style=each.style,
                tracks=each.tracks,
                known=each.known,
                learnt=_body(each.learnt),
                own=_body(each.own),
            )
            for each in queue.style_windows(read)
        ],
    )


@router.put("")
def set_analysis(use: Use, wanted: AnalysisIn) -> AnalysisOut:
    """Change how tracks are analysed from now on."""
    windows = {style: (window.low, window.high) for style, window in wanted.windows.items()}
    preparing.set_analysis(use.database, AnalysisChoice(wanted.arrival, wanted.turn, windows))
    return get_analysis(use)


@router.post("/again")
def analyse_again(use: Use, wanted: AnalyseIn) -> QueuedOut:
    """Put tracks into the queue; what is locked or done by hand goes on to win."""
    ids, window = chosen_ids(use, wanted), _window(wanted.window)
    queued = preparing.analyse(use, ids, window, wanted.parts, wanted.first, wanted.only_missing)
    return QueuedOut(queued=queued)


@router.post("/heard-before")
def analyse_heard_before(use: Use) -> QueuedOut:
    """Put all tracks that an older version of Vinyl has heard into the queue, after those that wait."""
    return QueuedOut(queued=preparing.analyse(use, queue.heard_before(use.database.read(), VERSION)))


@router.post("/compare", status_code=202)
def compare(use: Use, wanted: AnalyseIn) -> JobOut:
    """Hear tracks again and keep what would be different, without replacing anything."""
    there = chosen_ids(use, wanted)
    return job_out(use.comparer.add(there, _window(wanted.window), wanted.parts))


@router.get("/compare/{job_id}")
def get_comparison(use: Use, job_id: int) -> list[HeardDifferenceOut]:
    """What a comparison found to be different."""
    job = use.runner.get(job_id)
    if job.kind != comparing.KIND:
        raise LibraryError("This work has compared nothing.")
    found = (job.result or {}).get("differences", [])
    return [HeardDifferenceOut.model_validate(each) for each in found]


@router.post("/compare/{job_id}/take")
def take_comparison(use: Use, job_id: int, wanted: TakeIn) -> QueuedOut:
    """Analyse tracks of a comparison with its settings, and keep the results this time."""
    payload = use.runner.get(job_id).payload
    if "parts" not in payload:
        raise LibraryError("This work has compared nothing.")
    there = tracks.existing(use.database.read(), wanted.ids)
    window = payload["window_bpm"]
    queued = preparing.analyse(use, there, window and (window[0], window[1]), payload["parts"], first=True)
    return QueuedOut(queued=queued)


@router.post("/opened/{track_id}", status_code=204)
def note_opened(use: Use, track_id: int) -> None:
    """Tell that a track is on the Workbench: it is analysed now, if that waits until tracks are opened."""
    preparing.note_opened(use, track_id)


def _window(body: WindowBody | None) -> Window | None:
    return (body.low, body.high) if body else None


def _body(window: Window | None) -> WindowBody | None:
    return WindowBody(low=window[0], high=window[1]) if window else None
