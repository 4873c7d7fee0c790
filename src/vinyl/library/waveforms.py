"""Waveform summaries, one small compressed file a track, beside the database."""

from __future__ import annotations

import gzip
from pathlib import Path

from vinyl.core.waveform.summary import (
    StoredOnsets,
    WaveformSummary,
    overview,
    pack,
    unpack_onsets,
)
from vinyl.library.errors import NotFoundError
from vinyl.media.files import replacing

PER_FOLDER = 1000


class WaveformStore:
    """Files under a folder, spread by track number."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def store(self, track_id: int, summary: WaveformSummary) -> None:
        """Keep a track's summary, replacing an older one at once."""
        with replacing(self._path(track_id)) as part:
            part.write_bytes(gzip.compress(pack(summary), compresslevel=5))

    def has(self, track_id: int) -> bool:
        """Whether there is a summary of a track."""
        return self._path(track_id).is_file()

    def read(self, track_id: int) -> bytes:
        """A track's summary as gzip of the format in vinyl.core.waveform.summary.

        Raises:
            NotFoundError: if the track was not analysed yet.
        """
        try:
            return self._path(track_id).read_bytes()
        except FileNotFoundError as error:
            raise NotFoundError("This track has no waveform yet: it waits for its analysis.") from error

    def overview(self, track_id: int) -> bytes:
        """The level of a track's summary that shows it whole, by itself.

        Raises:
            NotFoundError: if the track was not analysed yet.
            AnalysisError: if its summary is of an older kind.
        """
        return overview(gzip.decompress(self.read(track_id)))

    def onsets(self, track_id: int) -> StoredOnsets:
        """The onsets out of a track's summary.

        Raises:
            NotFoundError: if the track was not analysed yet.
            AnalysisError: if its summary is of an older kind.
        """
        return unpack_onsets(gzip.decompress(self.read(track_id)))

    def _path(self, track_id: int) -> Path:
        return self._folder / str(track_id // PER_FOLDER) / f"{track_id}.vwf.gz"
