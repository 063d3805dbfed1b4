"""What the kernel raises is told as its refusal; mistakes of ours are not."""

from __future__ import annotations

import pytest
from OCP.BRep import BRep_Tool
from OCP.gp import gp_Dir, gp_Pnt

from gondrel.core.errors import KernelRefused, UsageError
from gondrel.core.kernel.base.calls import kernel_call


@pytest.mark.parametrize(
    "act", [lambda: gp_Dir(0, 0, 0), lambda: gp_Pnt("far", 0, 0), lambda: BRep_Tool.Surface_s(None)]
)
def test_what_the_kernel_or_its_binding_raises_is_its_refusal(act) -> None:
    with pytest.raises(KernelRefused, match="doing it failed"), kernel_call("doing it"):
        act()


def test_a_mistake_of_ours_stays_one() -> None:
    def one(first: int) -> int:
        return first

    with pytest.raises(TypeError), kernel_call("doing it"):
        one()  # type: ignore[call-arg]
    with pytest.raises(AttributeError), kernel_call("doing it"):
        _ = one.nothing  # type: ignore[attr-defined]
    with pytest.raises(UsageError), kernel_call("doing it"):
        raise UsageError("said already")
