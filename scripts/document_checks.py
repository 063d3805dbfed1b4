"""Writes docs/checks.md from the checks themselves. Run: .venv/bin/python scripts/document_checks.py"""

from __future__ import annotations

from pathlib import Path

from gondrel.core.service.check import check_helps

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
    for each in check_helps():
        lines.append(
            f"| {each.code} | {each.title} | {each.severity} | {each.why} | {each.cure} | {each.source} |"
        )
    lines.append("| F701 | Mesh that bounds no solid | fault | | Mend the meshes | own |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    TARGET.write_text(page(), "utf-8")
