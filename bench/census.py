"""What accounting for every record of a STEP file costs, against reading it, in the same runs.

Run: .venv/bin/python bench/census.py [FILE]. Without a file, a part of some 9 MB is made. Times are those
of the reading process; what is worked out aside meanwhile counts where reading waits for it. Prints each
round and the median share.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from parts import make_heavy_part

from gondrel.core.formats.step import read as reading
from gondrel.core.model.store import BlobStore

_ROUNDS = 5


def timed(path: str, store: Path) -> tuple[float, float]:
    """Seconds of the whole reading, and of the census in it."""
    spent = [0.0]
    census = reading.census_of

    def counted(*args: Any) -> Any:
        start = time.perf_counter()
        found = census(*args)
        spent[0] += time.perf_counter() - start
        return found

    reading.census_of = counted
    try:
        start = time.perf_counter()
        reading.read(path, BlobStore(store))
        return time.perf_counter() - start, spent[0]
    finally:
        reading.census_of = census


def main() -> None:
    """Measure and print."""
    with tempfile.TemporaryDirectory() as folder:
        path = sys.argv[1] if len(sys.argv) > 1 else f"{folder}/heavy.stp"
        if len(sys.argv) < 2:
            make_heavy_part(path)
        shares = []
        for number in range(_ROUNDS):
            whole, census = timed(path, Path(folder) / f"store{number}")
            shares.append(census / (whole - census))
            print(f"round {number + 1}: reading {whole:.2f} s, of it the census {census:.2f} s")
        print(f"census / reading without it: {statistics.median(shares):.1%} (limit 15 %)")


if __name__ == "__main__":
    main()
