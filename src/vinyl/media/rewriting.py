"""Writing tags so that no file is ever half written, its sound stays to the byte, and it can be undone."""

from __future__ import annotations

import hashlib
import json
import shutil
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import mutagen

from vinyl.media.decode import open_audio, packets_of
from vinyl.media.errors import MediaError
from vinyl.media.files import replacing
from vinyl.media.heading import is_head, put_head_back, rewrite_head
from vinyl.media.tags.reading import open_tagged

PIECE = 1 << 20
OTHER_SOUND = "The sound would not be the same afterwards, so the file was left as it was."
NO_ORIGINAL = "What stood in this file before was not kept, or the file was changed since."


@dataclass(frozen=True, slots=True)
class Sound:
    """The sound of a file: a name of all its packets, and between which bytes they lie."""

    packet_hash: str
    begins: int
    ends: int


@dataclass(frozen=True, slots=True)
class Written:
    """A file after writing: its size and time of change."""

    size_bytes: int
    modified_ns: int


def sound_of(path: Path) -> Sound:
    """Read all packets of a file.

    Raises:
        MediaError: if it cannot be read.
    """
    digest, begins, ends = hashlib.blake2b(digest_size=20), 0, 0
    with open_audio(path) as (container, stream):
        for packet in packets_of(container, stream):
            if packet.size:
                begins = begins or packet.pos or 0
                ends = (packet.pos or 0) + packet.size
                digest.update(packet)
    return Sound(digest.hexdigest(), begins, ends)


def rewrite(path: Path, kept: Path, change: Callable[[Path], None]) -> Written:
    """Change a copy of a file beside it, see that its sound is the same, and put it in the file's place.

    Args:
        kept: where what stood around the sound is written first, for ``put_back``.

    Raises:
        MediaError: if the change cannot be made, or the sound would not be the same; the file is as it was.
        OSError: if the disk does not do it; the file is as it was.
    """
    before = sound_of(path)
    with replacing(path, path.suffix) as part:
        shutil.copyfile(path, part)
        shutil.copymode(path, part)
        try:
            change(part)
        except mutagen.MutagenError as error:
            raise MediaError(f"Its tags could not be written ({error}).") from error
        after = sound_of(part)
        if after.packet_hash != before.packet_hash:
            raise MediaError(OTHER_SOUND)
        _keep(path, part, before, after, kept)
    return _written(path)


def rewrite_in_place(path: Path, kept: Path, change: Callable[[Path], None]) -> Written:
    """Change a file's tags where they stand if they have room there, else as ``rewrite`` does.

    Raises:
        MediaError, OSError: as ``rewrite``.
    """
    if rewrite_head(path, kept, change):
        return _written(path)
    return rewrite(path, kept, change)


def is_written(path: Path, kept: Path) -> bool:
    """Whether a file is what ``rewrite`` made of it when it wrote ``kept``."""
    try:
        return bool(_read_kept(kept)[0]["digest"] == _digest(path))
    except (OSError, ValueError, zlib.error):
        return False


def put_back(path: Path, kept: Path) -> Written:
    """Give a file the bytes around its sound, or the comments, that it had before.

    Raises:
        MediaError: if they were not kept, or the file is not what was written then.
        OSError: if the disk does not do it; the file is as it was.
    """
    if is_head(kept):
        put_head_back(path, kept)
        return _written(path)
    try:
        head, bodies = _read_kept(kept)
    except (OSError, ValueError, zlib.error) as error:
        raise MediaError(NO_ORIGINAL) from error
    if head["digest"] != _digest(path):
        raise MediaError(NO_ORIGINAL)
    with replacing(path, path.suffix) as part:
        if head["comments"] is None:
            _splice(path, part, head, bodies)
        else:
            shutil.copyfile(path, part)
            audio = open_tagged(part)
            if audio is None:
                raise MediaError(NO_ORIGINAL)
            audio.tags[:] = [tuple(pair) for pair in head["comments"]]
            audio.save()
        shutil.copymode(path, part)
        if sound_of(part).packet_hash != head["packet_hash"]:
            raise MediaError(OTHER_SOUND)
    return _written(path)


def _keep(path: Path, part: Path, before: Sound, after: Sound, kept: Path) -> None:
    """Write down what the file was around its sound. In Ogg, where pages are numbered anew, its comments."""
    same = _digest(path, before.begins, before.ends) == _digest(part, after.begins, after.ends)
    audio = None if same else open_tagged(path)
    head = {
        "digest": _digest(part),
        "packet_hash": before.packet_hash,
        "begins": after.begins,
        "ends": after.ends,
        "comments": None if audio is None else list(audio.tags or ()),
    }
    bodies = (_bytes(path, 0, before.begins), _bytes(path, before.ends, None)) if same else (b"", b"")
    first = json.dumps({**head, "sizes": [len(body) for body in bodies]}).encode()
    with replacing(kept) as whole:
        whole.write_bytes(len(first).to_bytes(4, "big") + first + zlib.compress(b"".join(bodies), 1))


def _read_kept(kept: Path) -> tuple[dict[str, Any], tuple[bytes, bytes]]:
    data = kept.read_bytes()
    size = int.from_bytes(data[:4], "big")
    head = json.loads(data[4 : 4 + size])
    body = zlib.decompress(data[4 + size :])
    return head, (body[: head["sizes"][0]], body[head["sizes"][0] :])


def _splice(path: Path, part: Path, head: dict[str, Any], bodies: tuple[bytes, bytes]) -> None:
    with path.open("rb") as source, part.open("wb") as target:
        target.write(bodies[0])
        source.seek(head["begins"])
        left = head["ends"] - head["begins"]
        while left and (piece := source.read(min(PIECE, left))):
            target.write(piece)
            left -= len(piece)
        target.write(bodies[1])


def _bytes(path: Path, begins: int, ends: int | None) -> bytes:
    with path.open("rb") as file:
        file.seek(begins)
        return file.read() if ends is None else file.read(ends - begins)


def _digest(path: Path, begins: int = 0, ends: int | None = None) -> str:
    digest = hashlib.blake2b(digest_size=20)
    with path.open("rb") as file:
        file.seek(begins)
        left = (path.stat().st_size if ends is None else ends) - begins
        while left > 0 and (piece := file.read(min(PIECE, left))):
            digest.update(piece)
            left -= len(piece)
    return digest.hexdigest()


def _written(path: Path) -> Written:
    stat = path.stat()
    return Written(stat.st_size, stat.st_mtime_ns)
