"""Keys of places: in order between any two, and short however many things are put at the ends of a list."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vinyl.core.ordering import DIGITS, key_between, keys_between

KEYS = st.text(DIGITS, min_size=1, max_size=12).map(lambda key: key.rstrip(DIGITS[0])).filter(bool)


@given(KEYS | st.none(), KEYS | st.none(), st.integers(0, 300))
def test_keys_lie_in_order_between_their_neighbours(
    before: str | None, after: str | None, count: int
) -> None:
    if before is not None and after is not None:
        if before == after:
            with pytest.raises(ValueError, match="no key lies between"):
                keys_between(before, after, count)
            return
        before, after = sorted((before, after))
    keys = keys_between(before, after, count)
    whole = [*([before] if before else []), *keys, *([after] if after else [])]
    assert len(keys) == count and all(one < other for one, other in itertools.pairwise(whole))
    assert not any(key.endswith(DIGITS[0]) for key in keys)


@pytest.mark.parametrize("at_the_end", [True, False])
def test_three_thousand_things_at_an_end_have_short_keys(at_the_end: bool) -> None:
    keys = [key_between(None, None)]
    for _ in range(3000):
        keys.append(key_between(keys[-1], None) if at_the_end else key_between(None, keys[-1]))
    assert sorted(keys) == (keys if at_the_end else keys[::-1]) and max(map(len, keys)) <= 6
    long = key_between("z" * 500, None)
    assert long > "z" * 500 and max(map(len, keys_between(long, None, 3000))) < 510


def test_what_is_moved_to_and_fro_keeps_its_order() -> None:
    keys = keys_between(None, None, 4)
    for _ in range(200):
        low, high = keys[1], keys[2]
        keys[1:3] = [key_between(low, high), high]
    assert keys == sorted(keys)
