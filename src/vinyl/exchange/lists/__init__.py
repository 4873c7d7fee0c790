"""Playlist files of the open formats: M3U, PLS, XSPF, cue sheets, and tables of values."""

from vinyl.exchange.lists.model import Columns, Entry, Playlist, Sheet
from vinyl.exchange.lists.reading import LIST_SUFFIXES, read_playlist

__all__ = ["LIST_SUFFIXES", "Columns", "Entry", "Playlist", "Sheet", "read_playlist"]
