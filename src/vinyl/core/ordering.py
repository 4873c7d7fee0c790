"""Fractional keys: places in a list as text, between any two of which there is always room for another.

A key is a fraction between 0 and 1 written in DIGITS after an unwritten point, without trailing zeros, so
that plain comparison of text is comparison of fractions. Moving one thing in a list changes its key and no
other. At the ends of a list keys go on in even steps: halving the room that is left each time would make them
longer with each few things that are put there.
"""

from __future__ import annotations

DIGITS = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"
BASE = len(DIGITS)
# Digits of keys at the ends of a list, and those of them that a step leaves free for what comes between.
END_DIGITS, FREE_DIGITS = 6, 3


def keys_between(before: str | None, after: str | None, count: int) -> list[str]:
    """So many keys in order, spread evenly between two neighbours; None stands for the list's end.

    Raises:
        ValueError: if ``before`` does not come before ``after``.
    """
    if before is not None and after is not None and before >= after:
        raise ValueError(f"no key lies between {before!r} and {after!r}")
    if count and (before is None) != (after is None):
        return _at_the_end(before, after, count)
    length = _length(before or "", after, count)
    low, high = _number(before or "", length), BASE**length if after is None else _number(after, length)
    return [_text(low + (high - low) * place // (count + 1), length) for place in range(1, count + 1)]


def _at_the_end(before: str | None, after: str | None, count: int) -> list[str]:
    """Keys behind all others, or before them; longer ones only when there is no room for their steps."""
    length = END_DIGITS
    while True:
        step, edge = BASE**FREE_DIGITS, _number(before or after or "", length)
        first = edge + step if before is not None else edge - step * count
        if first > 0 and first + step * (count - 1) < BASE**length:
            return [_text(first + step * place, length) for place in range(count)]
        length += FREE_DIGITS


def key_between(before: str | None, after: str | None) -> str:
    """A key between two neighbours; None stands for the list's end."""
    return keys_between(before, after, 1)[0]


def _length(before: str, after: str | None, count: int) -> int:
    """The fewest digits with which so many keys fit between."""
    length = 1
    while True:
        high = BASE**length if after is None else _number(after[:length], length)
        exact = len(before) <= length and (after is None or len(after) <= length)
        if exact and high - _number(before, length) > count:
            return length
        length += 1


def _number(key: str, length: int) -> int:
    value = 0
    for digit in key[:length].ljust(length, DIGITS[0]):
        value = value * BASE + DIGITS.index(digit)
    return value


def _text(value: int, length: int) -> str:
    digits = []
    for _ in range(length):
        value, digit = divmod(value, BASE)
        digits.append(DIGITS[digit])
    return "".join(reversed(digits)).rstrip(DIGITS[0])
