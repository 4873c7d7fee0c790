"""What to do where a stick is too small: go without some, make them smaller, or take a second one."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from vinyl.media.encode import ENCODINGS
from vinyl.sticks.plan import INDEX_BYTES_PER_TRACK, Plan, PlannedFile

LOSSLESS = (".flac", ".wav", ".aif", ".aiff")


@dataclass(frozen=True, slots=True)
class Proposals:
    """Ways to make it fit.

    ``leave_out`` are tracks that were played least, enough of them; ``smaller_saves`` how many bytes are
    saved by MP3 in place of lossless files; ``lists`` are the lists that fit whole, in order, the others
    being for a second stick.
    """

    leave_out: tuple[int, ...]
    smaller_saves: int
    lists: tuple[str, ...]


def propose(plan: Plan, plays: Mapping[int, tuple[int, str]]) -> Proposals:
    """Ways to make a plan fit that does not.

    Args:
        plays: how often each track was played, and when last.
    """
    new = [file for file in plan.files if file.action != "keep"]
    least = sorted(new, key=lambda file: (*plays.get(file.track_id, (0, "")), -file.size_bytes))
    leave_out, saved = dict[int, None](), 0
    for file in least:
        if saved >= plan.missing_bytes:
            break
        leave_out[file.track_id] = None
        saved += file.size_bytes + INDEX_BYTES_PER_TRACK
    return Proposals(tuple(leave_out), sum(map(_saving, new)), tuple(_fitting(plan)))


def _saving(file: PlannedFile) -> int:
    rate = ENCODINGS["mp3"].bit_rate or 0
    if not file.entry.file.endswith(LOSSLESS) or not file.duration_s:
        return 0
    return max(0, file.size_bytes - round(file.duration_s * rate / 8))


def _fitting(plan: Plan) -> Sequence[str]:
    """The first lists that fit, as the first player has them."""
    player = plan.players[0].entry
    sizes = {file.entry.file: file.size_bytes for file in plan.files}
    by_id = {track.id: track.file for track in player.tracks}
    room = plan.free_bytes + plan.removed_bytes
    room += sum(file.size_bytes for file in plan.files if file.action == "keep")
    taken, found = set[str](), []
    for each in player.lists:
        more = {by_id[i] for i in each.tracks} - taken
        room -= sum(sizes[file] + INDEX_BYTES_PER_TRACK for file in more)
        if room < 0:
            break
        taken |= more
        found.append(each.name)
    return found
