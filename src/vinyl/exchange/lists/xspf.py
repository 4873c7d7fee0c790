"""XSPF: the XML playlist of the Xiph.Org Foundation, version 0 and 1."""

from __future__ import annotations

from urllib.parse import unquote
from xml.etree.ElementTree import Element

from vinyl.core.foreign_paths import SCHEME
from vinyl.exchange.errors import ListError
from vinyl.exchange.lists.model import Entry, Playlist
from vinyl.exchange.xml import BrokenXmlError, UnsafeXmlError, parse


def read_xspf(data: bytes, name: str) -> Playlist:
    """The entries of a list.

    Raises:
        ListError: if it is not well-formed, or holds entities or references to other files.
    """
    try:
        root = parse(data)
    except UnsafeXmlError as error:
        raise ListError(
            "This playlist defines XML entities or points to other files, which a playlist has no need of. "
            "It was not read."
        ) from error
    except BrokenXmlError as error:
        raise ListError(f"This is no well-formed XML ({error}).") from error
    if _local(root) != "playlist":
        raise ListError("This is XML, but no XSPF playlist.")
    tracks = [track for part in root if _local(part) == "trackList" for track in part]
    return Playlist(
        _text(root, "title") or name,
        "XML",
        tuple(_entry(track) for track in tracks if _local(track) == "track"),
    )


def _entry(track: Element) -> Entry:
    length = _text(track, "duration")
    return Entry(
        _location(_text(track, "location")),
        _text(track, "creator"),
        _text(track, "title"),
        int(length) / 1000 if length.isdecimal() and int(length) else None,
    )


def _location(text: str) -> str:
    """A place as a path: what has no scheme is a relative URI, in which blanks and letters are encoded."""
    return text if SCHEME.match(text) else unquote(text)


def _text(element: Element, name: str) -> str:
    found = next((child for child in element if _local(child) == name), None)
    return " ".join((found.text or "").split()) if found is not None else ""


def _local(element: Element) -> str:
    """A tag without its namespace."""
    return str(element.tag).rpartition("}")[2]
