"""What was meant by words that occur in no track: those of the library that are an edit away from them."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache, partial
from threading import Lock

from rapidfuzz import process
from rapidfuzz.distance import OSA

from vinyl.core.rules.conditions import AllOf, AnyOf, Condition, Words
from vinyl.core.text import asked_words
from vinyl.library.conditions import how_many_have, is_known
from vinyl.library.find import ALL, Order, Window, find_window
from vinyl.library.rule_lists import compiled

# Letters from which on a word may have one error, and two.
ONE_ERROR, TWO_ERRORS = 4, 9
MOST_MEANT = 16
KEPT = 256


@dataclass(frozen=True, slots=True)
class Meant:
    """A condition with its words as they were meant, and what they were read as; None if they were found as
    they stand.
    """

    condition: Condition
    read_as: str | None = None


def find_meant(
    connection: sqlite3.Connection, condition: Condition, order: Order, offset: int, limit: int
) -> tuple[Window, str | None]:
    """A window of what was meant (vinyl.library.find.find_window), and what its words were read as."""
    typed = _typed(condition)
    as_typed = _rarest_first(connection, [[word] for word in typed.words]) if typed.words else ALL
    window = find_window(connection, typed.replaced(as_typed), order, offset, limit)
    meant = Meant(condition) if window.total else forgiving(connection, condition)
    if meant.read_as is not None:
        window = find_window(connection, meant.condition, order, offset, limit)
    return window, meant.read_as


def forgiving(connection: sqlite3.Connection, condition: Condition) -> Meant:
    """The condition itself where its words occur together in a track; else with what they may have meant.

    Only words among its first parts are looked at: those that a person types.
    """
    typed = _typed(condition)
    if not typed.words:
        return Meant(condition)
    as_typed = _rarest_first(connection, [[word] for word in typed.words])
    if max(map(len, typed.words)) < ONE_ERROR or _occurs(connection, as_typed):
        return Meant(typed.replaced(as_typed))
    last = len(typed.words) - 1
    spellings = [_spellings(connection, word, place == last) for place, word in enumerate(typed.words)]
    alone = [each[:1] if is_known(connection, each[0]) else each for each in spellings]
    for tried in (alone, spellings):
        meant = _rarest_first(connection, tried)
        if _occurs(connection, meant):
            return Meant(typed.replaced(meant), _read_as(connection, tried))
    return Meant(condition)


@dataclass(frozen=True, slots=True)
class _Typed:
    """A condition, and the words in the first of its parts that has words."""

    parts: tuple[Condition, ...]
    at: int
    words: list[str]

    def replaced(self, meant: Condition) -> Condition:
        """The condition with what was meant by its words."""
        if not self.words:
            return AllOf(self.parts)
        return AllOf((*self.parts[: self.at], meant, *self.parts[self.at + 1 :]))


def _typed(condition: Condition) -> _Typed:
    parts = condition.parts if isinstance(condition, AllOf) else (condition,)
    for at, part in enumerate(parts):
        if isinstance(part, Words):
            return _Typed(parts, at, asked_words(part.text))
    return _Typed(parts, 0, [])


def _rarest_first(connection: sqlite3.Connection, spellings: Sequence[Sequence[str]]) -> Condition:
    """One spelling of each word; finding goes by the first."""
    ordered = sorted(spellings, key=partial(how_many_have, connection)) if len(spellings) > 1 else spellings
    return AllOf(tuple(AnyOf(tuple(map(Words, each))) for each in ordered))


def _read_as(connection: sqlite3.Connection, tried: Sequence[Sequence[str]]) -> str:
    """The likeliest spelling of each word that occurs."""
    return " ".join(
        next((each for each in some if all(is_known(connection, word) for word in each.split())), some[0])
        for some in tried
    )


def _occurs(connection: sqlite3.Connection, condition: Condition) -> bool:
    sql, values = compiled(connection, condition)
    return connection.execute(f"SELECT 1 FROM shelf WHERE {sql} LIMIT 1", values).fetchone() is not None


def _spellings(connection: sqlite3.Connection, word: str, begun: bool) -> list[str]:
    """The word itself, and what it may have been meant to be, the nearest first; with ``begun`` also the
    beginning of a longer word.
    """
    path, newest = _state(connection)
    return [word, *_nearest(path, newest, word, begun, _VOCABULARY)]


class _Vocabulary:
    """The words of libraries by their files, read on from where they were read to."""

    def __init__(self) -> None:
        self._words: dict[str, tuple[int, list[str]]] = {}
        self._lock = Lock()

    def words(self, path: str, newest: int) -> list[str]:
        with self._lock:
            return self._words[path][1]

    def read(self, connection: sqlite3.Connection, path: str) -> int:
        """Take in the words that are new; returns the last of them."""
        with self._lock:
            last, words = self._words.get(path, (0, []))
            rows = connection.execute("SELECT id, word FROM shelf_word WHERE id > ? ORDER BY id", (last,))
            for row in rows:
                last = row[0]
                words.append(row[1])
            self._words[path] = (last, words)
            return last


_VOCABULARY = _Vocabulary()


def _state(connection: sqlite3.Connection) -> tuple[str, int]:
    path = str(connection.execute("SELECT file FROM pragma_database_list WHERE name = 'main'").fetchone()[0])
    return path, _VOCABULARY.read(connection, path)


@lru_cache(maxsize=KEPT)
def _nearest(path: str, newest: int, word: str, begun: bool, vocabulary: _Vocabulary) -> tuple[str, ...]:
    """Words an edit or two away from one that was typed."""
    words, errors = vocabulary.words(path, newest), _errors(word)
    found: dict[str, int] = {}
    if errors:
        for candidate, distance, _ in process.extract_iter(
            word, words, scorer=OSA.distance, processor=None, score_cutoff=errors
        ):
            found[candidate] = int(distance)
        for candidate in _beginnings(word, words) if begun else ():
            distance = OSA.distance(word, candidate, score_cutoff=errors)
            if distance <= errors:
                found.setdefault(candidate, distance)
    nearest = sorted(found, key=lambda each: (found[each], abs(len(each) - len(word)), each))
    return (*_split(word, words), *[each for each in nearest if each != word][:MOST_MEANT])


def _errors(word: str) -> int:
    return 2 if len(word) >= TWO_ERRORS else 1 if len(word) >= ONE_ERROR else 0


def _beginnings(word: str, words: Iterable[str]) -> set[str]:
    """Beginnings, about as long as a word, of those words that begin or go on as it does."""
    size = len(word)
    return {
        each[: size + more]
        for each in words
        if len(each) > size + 1 and (each[0] == word[0] or each[1] == word[1])
        for more in (-1, 0, 1)
    }


def _split(word: str, words: Sequence[str]) -> tuple[str, ...]:
    """A word as two, where a space was left out."""
    known = set(words)
    return tuple(
        f"{word[:at]} {word[at:]}"
        for at in range(2, len(word) - 1)
        if word[:at] in known and word[at:] in known
    )[:MOST_MEANT]
