"""A text of one's own name in the tags of a file of any kind that can hold one."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from mutagen.id3 import ID3
from mutagen.mp4 import MP4

from vinyl.media.tags.editing import UTF8, UTF16, open_to_edit, save_id3, set_user
from vinyl.media.tags.mp4 import FREEFORM
from vinyl.media.tags.reading import open_tagged


def read_free(path: Path, name: str) -> str | None:
    """The text of a name, or None.

    Raises:
        mutagen.MutagenError, OSError: if the file cannot be read.
    """
    audio = open_tagged(path)
    tags = audio.tags if audio is not None else None
    if tags is None:
        return None
    if isinstance(audio, MP4):
        held = tags.get(FREEFORM + name)
        return bytes(held[0]).decode("utf-8", "replace") if held else None
    if isinstance(tags, ID3):
        frames = [frame for frame in tags.getall("TXXX") if frame.desc == name]
        return str(frames[0].text[0]) if frames and frames[0].text else None
    held = tags.get(name)
    return str(held[0]) if held else None


def write_free(path: Path, name: str, text: str) -> None:
    """Set the text of a name; all else stays.

    Raises:
        MediaError: if files of this kind hold no tags.
        mutagen.MutagenError, OSError: if it cannot be written.
    """
    audio = open_to_edit(path)
    if isinstance(audio, MP4):
        audio.tags[FREEFORM + name] = [text.encode()]
        audio.save(padding=_room)
    elif isinstance(audio.tags, ID3):
        set_user(audio.tags, name, text, UTF16 if audio.tags.version < (2, 4) else UTF8)
        save_id3(audio, padding=_room)
    else:
        audio.tags[name] = text
        audio.save(padding=_room)


def _room(info: Any) -> int:
    """How much room is left behind the tags: what there is, so that the sound need not be moved."""
    return int(info.padding if info.padding >= 0 else info.get_default_padding())
