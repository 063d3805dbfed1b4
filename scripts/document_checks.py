"""Writes docs/checks.md from the checks themselves. Run: .venv/bin/python scripts/document_checks.py"""

from __future__ import annotations

from pathlib import Path

from gondrel.core.checks.overlap import OVERLAP_TITLES
from gondrel.core.checks.runner import all_checks
from gondrel.core.checks.structure import STRUCTURE_CODES

TARGET = Path(__file__).parent.parent / "docs" / "checks.md"


def page() -> str:
    """The page as Markdown."""
    lines = [
        "# Checks",
        "",
        "Made by `scripts/document_checks.py` from the checks themselves. Every body is looked at as it "
        "was received, once however often it is placed; results are kept by the body's hash and the "
        "limits. Limits (`gondrel check FILE --set KEY=VALUE`): gap, short, tolerance (0.01 mm each), "
        "degree 15, poles 1000, knots 1e-6 of the range, kink 0.5 degrees, size_box 500 m.",
        "",
        "| code | finds | severity | why it matters | what mends it | criterion |",
        "|---|---|---|---|---|---|",
    ]
    for check in all_checks():
        lines.append(
            f"| {check.code} | {check.title} | {check.severity.value} | {check.why} | {check.cure} "
            f"| {check.source} |"
        )
    for code, (title, severity) in STRUCTURE_CODES.items():
        lines.append(f"| {code} | {title} | {severity.value} | | | own |")
    for code, title in OVERLAP_TITLES.items():
        lines.append(
            f"| {code} | {title}, with the volume they share | doubt | They can't both be there. "
            "| Move or drop one of them. | ISO 10303-59 solids overlap (from memory) |"
        )
    lines.append("| F701 | Mesh that bounds no solid | fault | | Mend the meshes | own |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    TARGET.write_text(page(), "utf-8")
