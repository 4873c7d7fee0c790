"""Runs of plays: where one night ends and the next begins, and which of them look like practice."""

from __future__ import annotations

from collections.abc import Sequence

# A pause this long parts two nights; breaks for speeches and dinner are shorter.
GAP_S = 5400.0
FEW_TRACKS = 5
SHORT_S = 1800.0
# Who plays for a floor lets tracks run longer than this.
SKIPPED_S = 75.0


def split_nights(begins_s: Sequence[float], gap_s: float = GAP_S) -> list[range]:
    """Stretches of plays, given by their beginnings in order, without a long pause between."""
    cuts = [place for place in range(1, len(begins_s)) if begins_s[place] - begins_s[place - 1] > gap_s]
    ends = [*cuts, len(begins_s)]
    return [range(start, end) for start, end in zip([0, *cuts], ends, strict=True) if end > start]


def why_practice(tracks: int, length_s: float | None, heard_s: float | None) -> tuple[str, ...]:
    """Why a run of plays looks like no gig, in words; empty if it looks like one.

    Args:
        length_s: from the first play to the last one's end; None if that is not known.
        heard_s: how long tracks were heard on average, if that is known.
    """
    reasons = []
    if tracks <= FEW_TRACKS:
        reasons.append("one track" if tracks == 1 else f"{tracks} tracks")
    if length_s is not None and length_s < SHORT_S:
        reasons.append(f"{max(1, round(length_s / 60))} min long")
    if heard_s is not None and heard_s < SKIPPED_S:
        reasons.append(f"tracks were heard for {round(heard_s)} s")
    return tuple(reasons)
