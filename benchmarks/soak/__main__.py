"""``script/soak [minutes]``: every class as tried / failed, what failed with the number it can be tried again by."""

from __future__ import annotations

import sys
import time
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

from benchmarks.soak.run import classes, run


def main() -> int:
    """Everything, on two processes; 1 where anything failed, or a class found no time to try anything."""
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 20.0
    end, failures = time.time() + 60 * minutes, 0
    every = classes()
    with ProcessPoolExecutor(2, get_context("spawn")) as pool:
        for place, (name, (count, _)) in enumerate(every.items()):
            until = time.time() + max(0.0, end - time.time()) / (len(every) - place)  # what one does not need the others have
            half = count // 2
            found = [pool.submit(run, name, numbers, until) for numbers in (range(half), range(half, count))]
            results = [one.result() for one in found]
            wrong = [line for _, lines in results for line in lines]
            tried = sum(tried for tried, _ in results)
            failures += len(wrong) + (tried == 0)
            print(f"{name:16} {tried:6} tried {len(wrong):4} failed{'' if tried else '   NOTHING TRIED'}", flush=True)
            for line in wrong[:5]:
                print(f"    {line}", flush=True)
    return 1 if failures else 0


if __name__ == "__main__":
    sys.exit(main())
