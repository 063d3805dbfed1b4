"""Parasolid XT: lexing and record building against the kernel's parse of STEP, in MB a second.

Run: .venv/bin/python bench/xt.py [MB]
Both read the same body written many times over, one after the other in the same process, so only the
ratio counts. Then the memory that opening a text file of so many MB (50) takes.
"""

from __future__ import annotations

import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from OCP.BRep import BRep_Builder
from OCP.STEPControl import STEPControl_Reader
from OCP.TopoDS import TopoDS_Compound

from gondrel.core.formats.xt.body_write import add_body
from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.document import open_document
from gondrel.core.formats.xt.nodes import Header
from gondrel.core.formats.xt.text import write_text
from gondrel.core.formats.xt.write import VERSION
from gondrel.core.kernel.base.calls import quiet
from gondrel.core.kernel.convert.boundary_out import boundary_of
from gondrel.core.kernel.exchange.step_out import write_body
from gondrel.core.kernel.modelling.build import moved
from gondrel.demo.parts import side_frame

ROUNDS = 3


def step_file(shape: object, path: Path, megabytes: float) -> None:
    """A STEP file of so many MB with the body over and over, side by side."""
    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    one = len(write_body(shape, "mm").data)
    for number in range(round(megabytes * 1e6 / one)):
        builder.Add(compound, moved(shape, by=(500.0 * number, 0, 0)))
    path.write_bytes(write_body(compound, "mm").data)


def xt_file(shape: object, path: Path, megabytes: float) -> None:
    """A text file of so many MB with the body over and over."""
    boundary = boundary_of(shape).boundary
    make = NodeBuilder()
    listed = make.new("POINTER_LIS_BLOCK")
    bodies: list[int] = []
    while True:
        bodies.append(add_body(make, boundary).body)
        if len(bodies) == 1:
            make.set(listed, n_entries=1, entries=bodies)
            one = len(write_text(make.document(Header("text", (("FORMAT", "text"),), VERSION))))
        if one * len(bodies) > megabytes * 1e6:
            break
    make.set(listed, n_entries=len(bodies), entries=bodies)
    path.write_bytes(write_text(make.document(Header("text", (("FORMAT", "text"),), VERSION))))


def rate(act: Callable[[], object], path: Path) -> float:
    """MB a second, median of some rounds."""
    seconds = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        act()
        seconds.append(time.perf_counter() - start)
    return path.stat().st_size / 1e6 / statistics.median(seconds)


def kernel_parse(path: Path) -> None:
    quiet()
    if STEPControl_Reader().ReadFile(str(path)).name != "IFSelect_RetDone":
        raise SystemExit(f"the kernel could not parse {path}")


def main() -> None:
    megabytes = float(sys.argv[1]) if len(sys.argv) > 1 else 50.0
    with tempfile.TemporaryDirectory(prefix="gondrel-bench-") as name:
        folder = Path(name)
        shape, step, xt = side_frame(1), folder / "many.stp", folder / "many.x_t"
        step_file(shape, step, 9.0)
        xt_file(shape, xt, step.stat().st_size / 1e6)
        theirs = rate(lambda: kernel_parse(step), step)
        ours = rate(lambda: open_document(str(xt)), xt)
        print(f"kernel's parse of STEP, {step.stat().st_size / 1e6:.1f} MB: {theirs:.1f} MB/s")
        print(f"XT text to records, {xt.stat().st_size / 1e6:.1f} MB: {ours:.1f} MB/s")
        print(f"ratio {ours / theirs:.2f} (wanted: 1 or more)")
        xt_file(shape, xt, megabytes)
        code = (
            "import sys; from gondrel.core.formats.xt.document import open_document, card_of\n"
            "d = open_document(sys.argv[1]); card_of(sys.argv[1], d)\n"
            "told = open('/proc/self/status').read().split('VmHWM:')[1]\n"  # ru_maxrss starts at our size
            "print(int(told.split()[0]) / 1024)"
        )
        peak = float(
            subprocess.run(
                [sys.executable, "-c", code, str(xt)], capture_output=True, text=True, check=True
            ).stdout
        )
        print(f"opening {xt.stat().st_size / 1e6:.1f} MB takes {peak:.0f} MB (wanted: under 2,000)")
        print(f"this bench itself: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")


if __name__ == "__main__":
    main()
