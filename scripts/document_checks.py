"""Writes docs/checks.md and docs/mends.md from checks and mends themselves.

Run: .venv/bin/python scripts/document_checks.py
"""

from __future__ import annotations

from pathlib import Path

from gondrel.core.service.check import check_helps
from gondrel.core.service.mend import mend_helps

DOCS = Path(__file__).parent.parent / "docs"


def checks_page() -> str:
    """All checks as Markdown."""
    cured: dict[str, list[str]] = {}
    for mend in mend_helps():
        for code in mend.cures:
            cured.setdefault(code, []).append(mend.code)
    lines = [
        "# Checks",
        "",
        "Made by `scripts/document_checks.py` from the checks themselves. Every body is looked at as it "
        "was received, once however often it is placed; results are kept by the body's hash and the "
        "limits. Limits (`gondrel check FILE --set KEY=VALUE`, or All limits in the window): gap, short, "
        "tolerance (0.01 mm each), degree 15, poles 1000, knots 1e-6 of the range, kink 0.5 degrees, "
        "size_box 500 m. The codes of mends are explained in [mends.md](mends.md).",
        "",
        "| code | finds | severity | why it matters | what mends it | mends | criterion |",
        "|---|---|---|---|---|---|---|",
    ]
    for each in check_helps():
        mends = ", ".join(cured.get(each.code, ()))
        lines.append(
            f"| {each.code} | {each.title} | {each.severity} | {each.why} | {each.cure} | {mends} "
            f"| {each.source} |"
        )
    return "\n".join(lines) + "\n"


def mends_page() -> str:
    """All mends as Markdown."""
    lines = [
        "# Mends",
        "",
        "Made by `scripts/document_checks.py` from the mends themselves, in the order in which they are "
        "tried. Each is tried on the bodies that a check found something on, measured before and after, "
        "and refused when it would add a fault, move what is there further than it may (ten times the "
        "distance chosen, unless said otherwise) or, for one that keeps the shape, change the volume of a "
        "sound solid by more than 1 %. `--safe` does those that keep the shape; those done only when asked "
        "for need their code (`--only R110`) or the code of a check; `--set finding=N` mends one finding "
        "alone, by its number in `gondrel check`.",
        "",
        "| code | does | how | for | keeps the shape | only when asked for | for one finding alone |",
        "|---|---|---|---|---|---|---|",
    ]
    for each in mend_helps():
        flags = (each.is_safe, each.is_asked, each.is_single)
        told = " | ".join("yes" if flag else "no" for flag in flags)
        cures = ", ".join(each.cures)
        lines.append(f"| {each.code} | {each.title} | {each.what} | {cures} | {told} |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    (DOCS / "checks.md").write_text(checks_page(), "utf-8")
    (DOCS / "mends.md").write_text(mends_page(), "utf-8")
