"""``./vinyl walk --minutes N``: walks from seed to seed until the time is up, or something is found."""

from __future__ import annotations

import argparse
import sys
import time
import traceback

from tests.walk.walking import walk, walk_once

# Of each seed, beside the first, in which nothing is done.
WALKS = 3


def main() -> int:
    """Walk; returns 1 if something was found."""
    parser = argparse.ArgumentParser(prog="vinyl walk", description=__doc__)
    parser.add_argument("--minutes", type=float, default=10.0, help="how long to walk")
    parser.add_argument("--seed", type=int, default=int(time.time()), help="where to begin")
    parser.add_argument("--steps", type=int, default=40, help="steps of a walk")
    parser.add_argument("--as-found", action="store_true", help="do not look for a shorter story")
    given = parser.parse_args()
    began_s, seed, walks = time.monotonic(), given.seed, 0
    with walk() as place:
        while (minutes := (time.monotonic() - began_s) / 60) < given.minutes:
            print(f"{minutes:.1f} min: seed {seed}, {WALKS} walks of {given.steps} steps", flush=True)
            try:
                walk_once(place, seed, given.steps, WALKS, not given.as_found)
            except BaseException:
                traceback.print_exc()
                minutes = (time.monotonic() - began_s) / 60
                print(f"Found with seed {seed} after {minutes:.1f} minutes and {walks} walks.")
                return 1
            seed, walks = seed + 1, walks + WALKS
    print(f"{walks} walks of {given.steps} steps, nothing found.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
