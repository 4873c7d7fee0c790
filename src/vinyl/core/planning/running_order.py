"""Running orders: the cheapest way through a set that holds what was pinned."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import VinylError

# Sets up to this size are solved exactly (Held and Karp, 1962), larger ones by local search; the fewer random
# changes are tried, the larger a set is.
EXACT = 12
KICKS, LONGEST_MOVED = 3000, 4
# What breaking a pin would cost: more than any order.
BROKEN = 1e6

Costs = NDArray[np.float64]
Order = NDArray[np.int64]


class PinsError(VinylError):
    """Pins that cannot all hold."""


@dataclass(frozen=True, slots=True)
class Pins:
    """What must hold: items at fixed places (from 0), and those that are followed at once by another."""

    places: Mapping[int, int] = field(default_factory=dict)
    followed_by: Mapping[int, int] = field(default_factory=dict)


def find_order(between: Costs, at: Costs, pins: Pins | None = None) -> list[int]:
    """The order of items that costs least.

    Args:
        between: (n, n), what it costs to go from one item to another.
        at: (n, n), what it costs to have an item at a place.

    Returns:
        The items in order; the optimum for up to EXACT of them.

    Raises:
        PinsError: if the pins contradict each other.
    """
    pins, count = pins or Pins(), len(between)
    start = _held(count, pins)
    between, at = _with_pins(between, at, pins)
    if count <= 2:
        return min(
            ([*each] for each in itertools.permutations(range(count))), key=lambda o: cost_of(o, between, at)
        )
    return _exact(between, at) if count <= EXACT else _search(start, between, at)


def cost_of(order: Sequence[int], between: Costs, at: Costs) -> float:
    """What an order costs."""
    items = np.asarray(order, np.int64)
    return float(at[items, np.arange(len(items))].sum() + between[items[:-1], items[1:]].sum())


def _with_pins(between: Costs, at: Costs, pins: Pins) -> tuple[Costs, Costs]:
    """Costs in which each pin that is broken costs more than anything else."""
    between, at = between.astype(np.float64), at.astype(np.float64)
    for item, place in pins.places.items():
        at[item] += BROKEN * (np.arange(len(at)) != place)
    for first, then in pins.followed_by.items():
        between[first] += BROKEN * (np.arange(len(at)) != then)
        at[first, -1] += BROKEN
    return between, at


def _held(count: int, pins: Pins) -> list[int]:
    """Some order that holds all pins.

    Raises:
        PinsError: if there is none.
    """
    free: list[int | None] = [None] * count
    blocks = _blocks(count, pins)
    for block in [each for each in blocks if any(item in pins.places for item in each)]:
        starts = {pins.places[item] - place for place, item in enumerate(block) if item in pins.places}
        if len(starts) > 1 or not _put(free, block, starts.pop()):
            raise PinsError("Two pins contradict each other: no order holds them all.")
    rest = sorted((each for each in blocks if each[0] not in free), key=len, reverse=True)
    if not _fill(free, rest):
        raise PinsError("What is to stay together does not fit between the fixed places.")
    return [item for item in free if item is not None]


def _blocks(count: int, pins: Pins) -> list[list[int]]:
    """Items that stay together, in order, and each other by itself."""
    then = dict(pins.followed_by)
    if len(set(then.values())) < len(then):
        raise PinsError("Two tracks are to be followed by the same one.")
    heads = [item for item in range(count) if item not in then.values()]
    blocks = []
    for head in heads:
        block = [head]
        while block[-1] in then:
            block.append(then[block[-1]])
        blocks.append(block)
    if sum(len(block) for block in blocks) < count:
        raise PinsError("Tracks that follow each other go in a circle.")
    return blocks


def _put(free: list[int | None], block: Sequence[int], start: int) -> bool:
    end = start + len(block)
    if start < 0 or end > len(free) or any(each is not None for each in free[start:end]):
        return False
    free[start:end] = block
    return True


def _fill(free: list[int | None], blocks: Sequence[Sequence[int]]) -> bool:
    """Put all blocks, the longest first, into free places; takes back what leads nowhere."""
    if not blocks:
        return True
    block, tried = blocks[0], set[int]()
    for start in range(len(free)):
        # Of places in one gap the first is as good as any, unless gaps differ: then their length tells.
        gap = _gap(free, start)
        if gap in tried or not _put(free, block, start):
            continue
        tried.add(gap)
        if _fill(free, blocks[1:]):
            return True
        free[start : start + len(block)] = [None] * len(block)
    return False


def _gap(free: Sequence[int | None], start: int) -> int:
    """How many places are free from one on."""
    return next((n for n, each in enumerate(free[start:]) if each is not None), len(free) - start)


def _exact(between: Costs, at: Costs) -> list[int]:
    """Dynamic programming over sets of items, the last of which is known (Held and Karp, 1962)."""
    count = len(between)
    best = np.full((1 << count, count), np.inf)
    came = np.zeros((1 << count, count), np.int64)
    for item in range(count):
        best[1 << item, item] = at[item, 0]
    for held in range(1, 1 << count):
        place = held.bit_count()
        if place == count:
            continue
        ways = best[held][:, None] + between
        for item in range(count):
            if not held >> item & 1:
                last = int(ways[:, item].argmin())
                best[held | 1 << item, item] = ways[last, item] + at[item, place]
                came[held | 1 << item, item] = last
    held, order = (1 << count) - 1, [int(best[-1].argmin())]
    while len(order) < count:
        last = int(came[held, order[-1]])
        held ^= 1 << order[-1]
        order.append(last)
    return order[::-1]


def _search(start: Sequence[int], between: Costs, at: Costs) -> list[int]:
    """Iterated local search (Lourenço, Martin and Stützle, 2003): the best move again and again; where none
    is better, a few random ones, from which it goes on if that leads further.
    """
    random, count = np.random.default_rng(len(between)), len(between)
    best = _descend(np.array(start, np.int64), between, at)
    best_cost = cost_of(best.tolist(), between, at)
    for _ in range(KICKS // count):
        kicked = best
        for _ in range(2):
            first, to = random.integers(count, size=2)
            kicked = _moved(kicked, int(first), 1 + int(random.integers(LONGEST_MOVED)), int(to))
        found = _descend(kicked, between, at)
        found_cost = cost_of(found.tolist(), between, at)
        if found_cost < best_cost - 1e-9:
            best, best_cost = found, found_cost
    return [int(item) for item in best]


def _descend(order: Order, between: Costs, at: Costs) -> Order:
    """The best move again and again, as long as one is better."""
    while True:
        gain, move = min(_best_move(order, length, between, at) for length in range(1, LONGEST_MOVED + 1))
        swap_gain, swap = _best_swap(order, between, at)
        if min(gain, swap_gain) >= -1e-9:
            return order
        if swap_gain < gain:
            order = order.copy()
            order[list(swap)] = order[list(swap[::-1])]
        else:
            order = _moved(order, *move)


def _moved(order: Order, first: int, length: int, to: int) -> Order:
    """A stretch moved so that it begins at a place, as far as there is room."""
    moved, rest = order[first : first + length], np.delete(order, slice(first, first + length))
    return np.insert(rest, min(to, len(rest)), moved)


def _best_move(order: Order, length: int, between: Costs, at: Costs) -> tuple[float, tuple[int, int, int]]:
    """What the best move of a stretch of some length gains (negative); its start, length and new place."""
    count = len(order)
    starts, tos = np.meshgrid(np.arange(count - length + 1), np.arange(count - length + 1), indexing="ij")
    # Neighbours of the stretch before and after; beyond the ends nothing costs anything.
    edge = np.zeros((count + 1, count + 1))
    edge[:count, :count] = between
    items = np.concatenate([[count], order, [count]])
    head, tail = order[starts], order[starts + length - 1]
    before, after = items[starts], items[starts + length + 1]
    left = np.where(tos > starts, items[np.minimum(tos + length, count)], items[tos])
    right = np.where(tos > starts, items[np.minimum(tos + length + 1, count + 1)], items[tos + 1])
    gains = edge[before, after] - edge[before, head] - edge[tail, after]
    gains += edge[left, head] + edge[tail, right] - edge[left, right]
    gains += _at_moved(order, length, at)
    gains[starts == tos] = 0.0
    start, to = np.unravel_index(int(gains.argmin()), gains.shape)
    return float(gains[start, to]), (int(start), length, int(to))


def _at_moved(order: Order, length: int, at: Costs) -> Costs:
    """What places cost more (starts, new places) when a stretch is moved and what it passes makes room."""
    count, places = len(order), np.arange(len(order))
    here = at[order, places]
    begins = np.arange(count - length + 1)
    own, stays = np.zeros((len(begins), len(begins))), np.zeros(len(begins))
    for k in range(length):
        own += at[order[begins + k]][:, k : count - length + 1 + k]
        stays += here[begins + k]
    earlier = np.concatenate([[0.0], np.cumsum(at[order, np.maximum(places - length, 0)] - here)])
    later = np.concatenate([[0.0], np.cumsum(at[order, np.minimum(places + length, count - 1)] - here)])
    passed = np.where(
        begins[None, :] > begins[:, None],
        earlier[begins + length][None, :] - earlier[begins + length][:, None],
        later[begins][:, None] - later[begins][None, :],
    )
    costs: Costs = own - stays[:, None] + passed
    return costs


def _best_swap(order: Order, between: Costs, at: Costs) -> tuple[float, tuple[int, int]]:
    """What the best exchange of two that are not neighbours gains (negative), and their places."""
    count, places = len(order), np.arange(len(order))
    edge = np.zeros((count + 1, count + 1))
    edge[:count, :count] = between
    items = np.concatenate([[count], order, [count]])
    before, after = items[places], items[places + 2]
    here = at[order, places] + edge[before, order] + edge[order, after]
    # What the item of a row costs at the place of a column.
    there = at[order] + edge[before][:, order].T + edge[order][:, after]
    gains = there + there.T - here[:, None] - here[None, :]
    gains[np.abs(places[:, None] - places[None, :]) < 2] = 0.0
    first, second = np.unravel_index(int(gains.argmin()), gains.shape)
    return float(gains[first, second]), (int(first), int(second))
