"""Changing the tags in front of a file's sound in place, where they have room: much faster than a copy.

The old head is written down first. No byte of the sound is touched, and the file stays as long as it is;
where that cannot be, nothing is done.
"""

from __future__ import annotations

import hashlib
import json
import os
import tempfile
import zlib
from collections.abc import Callable
from pathlib import Path

import mutagen

from vinyl.media.decode import open_audio, packets_of
from vinyl.media.errors import MediaError
from vinyl.media.files import replacing

# A head that is larger is not held in memory.
LARGEST_HEAD = 32 * 1024**2
# So much of the sound goes along, so that what a kind of file begins with can be told.
SOME_SOUND = 256 * 1024
# Of these any piece is a file, and what follows must be pages too.
PAGED = frozenset({".ogg", ".oga", ".opus"})
MAGIC = b"VHD1"


def rewrite_head(path: Path, kept: Path, change: Callable[[Path], None]) -> bool:
    """Change the tags at a file's head in place; False where they have no room, and nothing was done.

    Args:
        kept: where the old head is written first, for ``put_head_back``.

    Raises:
        MediaError: if the file cannot be read.
        OSError: if the disk does not do it; the old head is in ``kept`` then.
    """
    _mend(path, kept)
    begins = _sound_begins(path)
    if not 0 < begins <= LARGEST_HEAD:
        return False
    with path.open("rb") as file:
        before = file.read(begins + SOME_SOUND)
    after = _changed(path, before, change)
    if after is None or after[begins:] != before[begins:] or after[:begins] == before[:begins]:
        return False
    _keep(kept, path.stat().st_size, before[:begins], after[:begins])
    _write_head(path, after[:begins])
    return True


def is_head(kept: Path) -> bool:
    """Whether a head was kept there."""
    try:
        with kept.open("rb") as file:
            return file.read(len(MAGIC)) == MAGIC
    except OSError:
        return False


def put_head_back(path: Path, kept: Path) -> None:
    """Give a file the head that it had before ``rewrite_head``.

    Raises:
        MediaError: if the file is not what was written then.
        OSError: if the disk does not do it.
    """
    told, old = _read_kept(kept)
    with path.open("rb") as file:
        there = file.read(len(old))
    if path.stat().st_size != told["size"] or _name(there) != told["after"]:
        raise MediaError("What stood in this file before was not kept, or the file was changed since.")
    _write_head(path, old)


def _mend(path: Path, kept: Path) -> None:
    """Put the old head back where a power cut has left one that is neither old nor new."""
    if not is_head(kept):
        return
    told, old = _read_kept(kept)
    with path.open("rb") as file:
        there = _name(file.read(len(old)))
    if path.stat().st_size == told["size"] and there not in (told["before"], told["after"]):
        _write_head(path, old)


def _sound_begins(path: Path) -> int:
    """The byte at which a file's first packet lies; 0 where that is not told."""
    with open_audio(path) as (container, stream):
        for packet in packets_of(container, stream):
            if packet.size:
                return packet.pos or 0
    return 0


def _changed(path: Path, head: bytes, change: Callable[[Path], None]) -> bytes | None:
    """What a change makes of the beginning of a file; None where it cannot be told from that alone, or the
    file would be of another length.
    """
    with tempfile.TemporaryDirectory(prefix="vinyl-head-") as folder:
        part = Path(folder) / f"head{path.suffix}"
        part.write_bytes(head)
        size = len(head) if path.suffix.lower() in PAGED else path.stat().st_size
        os.truncate(part, size)  # the rest is a hole, which takes no room
        try:
            change(part)
        except (mutagen.MutagenError, MediaError, ValueError, OSError):
            return None
        if part.stat().st_size != size:
            return None
        with part.open("rb") as file:
            return file.read(len(head))


def _keep(kept: Path, size: int, before: bytes, after: bytes) -> None:
    told = json.dumps({"size": size, "before": _name(before), "after": _name(after)}).encode()
    with replacing(kept) as part:
        part.write_bytes(MAGIC + len(told).to_bytes(4, "big") + told + zlib.compress(before, 1))


def _read_kept(kept: Path) -> tuple[dict[str, object], bytes]:
    data = kept.read_bytes()
    first = len(MAGIC) + 4
    size = int.from_bytes(data[len(MAGIC) : first], "big")
    try:
        return json.loads(data[first : first + size]), zlib.decompress(data[first + size :])
    except (ValueError, zlib.error) as error:
        raise MediaError("What stood in this file before was not kept whole.") from error


def _write_head(path: Path, head: bytes) -> None:
    with path.open("r+b") as file:
        file.write(head)
        file.flush()
        os.fsync(file.fileno())


def _name(head: bytes) -> str:
    return hashlib.blake2b(head, digest_size=20).hexdigest()
