"""A steady piece of a track whose tempo takes steps."""

from __future__ import annotations

from dataclasses import dataclass, replace

# A piece with less of the track's usual high attacks has no drums: one sound on its own says nothing of which
# quarter of a beat it lies on. Made-up pieces without drums have at most 0.46, others at least 0.7.
LEAST_DRUMS = 0.57


@dataclass(frozen=True, slots=True)
class Piece:
    """Beats at ``phase_s + n * period_s`` that hold from ``start_s`` to ``end_s``.

    ``strength`` is how much onset strength they explain, ``alike`` how like its own mean each segment is,
    ``spread_s`` how far the segments stray from the grid (root mean square), ``beat_share`` (0 to 1) how
    clearly its beat stands out from the off-beat, and ``drums`` how many high attacks it has (1 is usual in
    its track).
    """

    start_s: float
    end_s: float
    period_s: float
    phase_s: float
    strength: float = 0.0
    alike: float = 0.0
    spread_s: float = 0.0
    beat_share: float = 0.0
    drums: float = 1.0

    @property
    def has_drums(self) -> bool:
        return self.drums >= LEAST_DRUMS

    def moved(self, by_s: float) -> Piece:
        """The same so much later."""
        return replace(
            self, start_s=self.start_s + by_s, end_s=self.end_s + by_s, phase_s=self.phase_s + by_s
        )
