"""Tables of text for people: CSV, XLSX, HTML."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from html import escape
from pathlib import Path

from gondrel.core.model.store import write_whole

__all__ = ["write_rows"]

_PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{title}</title><style>
body {{ font: 14px/1.4 sans-serif; margin: 2em; color: #1c2730; }}
table {{ border-collapse: collapse; }} td, th {{ border-bottom: 1px solid #cdd3d6; padding: .3em .8em;
text-align: left; vertical-align: top; overflow-wrap: anywhere; }} th {{ white-space: nowrap; }}
</style></head><body><h1>{title}</h1><table><thead><tr>{head}</tr></thead><tbody>
{rows}
</tbody></table></body></html>
"""


def _harmless(cell: str) -> str:
    """A cell that no spreadsheet takes for a formula; numbers stay numbers."""
    return f"'{cell}" if cell.startswith(("=", "@")) else cell


def write_rows(
    path: str | Path, title: str, headings: Sequence[str], rows: Sequence[Sequence[str]], *,
    frozen: str = "A2",
) -> None:  # fmt: skip
    """Keep rows of text as CSV, XLSX or HTML, by the ending.

    Args:
        frozen: the first cell of an XLSX that is moved; what is above and left of it stays.

    Raises:
        WriteFailed: when the disk refuses.
    """
    suffix = Path(path).suffix.lower()
    if suffix == ".xlsx":
        from openpyxl import Workbook

        book = Workbook()
        sheet = book.active
        for number, line in enumerate((headings, *rows), 1):
            for place, cell in enumerate(line, 1):
                sheet.cell(number, place).value = cell or None
                sheet.cell(number, place).data_type = "s"  # a text, whatever it looks like
        sheet.freeze_panes = frozen
        data = io.BytesIO()
        book.save(data)
        write_whole(Path(path), data.getvalue())
        return
    if suffix == ".csv":
        text = io.StringIO()
        csv.writer(text).writerows([_harmless(cell) for cell in line] for line in (headings, *rows))
        write_whole(Path(path), text.getvalue().encode("utf-8-sig"))
        return
    head = "".join(f"<th>{escape(cell)}</th>" for cell in headings)
    body = "\n".join(f"<tr>{''.join(f'<td>{escape(cell)}</td>' for cell in line)}</tr>" for line in rows)
    write_whole(Path(path), _PAGE.format(title=escape(title), head=head, rows=body).encode())
