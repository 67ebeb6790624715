"""``script/soak [minutes]``: every class as tried / failed, what failed with the number it can be tried again by."""

from __future__ import annotations

import sys
import time
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

from benchmarks.soak.run import classes, run


def main() -> int:
    """Everything, on two processes; 1 where anything failed."""
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 20.0
    until, failures = time.time() + 60 * minutes, 0
    with ProcessPoolExecutor(2, get_context("spawn")) as pool:
        for name, (count, _) in classes().items():
            half = count // 2
            found = [pool.submit(run, name, numbers, until) for numbers in (range(half), range(half, count))]
            results = [one.result() for one in found]
            wrong = [line for _, lines in results for line in lines]
            failures += len(wrong)
            print(f"{name:16} {sum(tried for tried, _ in results):6} tried {len(wrong):4} failed", flush=True)
            for line in wrong[:5]:
                print(f"    {line}", flush=True)
    return 1 if failures else 0


if __name__ == "__main__":
    sys.exit(main())
