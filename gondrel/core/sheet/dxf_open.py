"""Opening DXF files, text and binary, damaged ones too, through ezdxf."""

from __future__ import annotations

import io
from typing import Any

from gondrel.core.errors import MalformedFile
from gondrel.core.model.provenance import Note

__all__ = ["open_document", "sound_text", "what_it_said"]

_TOLD = 20
_BINARY = b"AutoCAD Binary DXF\r\n\x1a\x00"
"""The sentinel of binary files. Source: DXF reference, binary DXF files."""


def open_document(data: bytes, path: str) -> tuple[Any, list[Note]]:
    """The document of a DXF file, and what was put right in it. Raises MalformedFile."""
    import ezdxf
    from ezdxf import recover

    if not data.strip():
        raise MalformedFile("it is empty", file=path)
    try:
        document, auditor = (
            _binary(data) if data.startswith(_BINARY) else recover.read(io.BytesIO(data), "replace")
        )
    except (ezdxf.DXFError, OSError) as error:
        raise MalformedFile(f"it is no DXF drawing: {what_it_said(error)}", file=path) from None
    except RecursionError:
        raise MalformedFile("its blocks hold one another", file=path) from None
    except Exception as error:  # whatever a damaged file brings the library to
        raise MalformedFile(f"it can't be read as DXF: {what_it_said(error)}", file=path) from None
    problems = [*auditor.errors, *auditor.fixes]
    told = (sound_text(" ".join(problem.message.split())) for problem in problems[:_TOLD])
    notes = [Note("put-right", message) for message in told]
    if len(problems) > _TOLD:
        notes.append(Note("put-right", f"and {len(problems) - _TOLD} more of that kind"))
    return document, notes


def _binary(data: bytes) -> tuple[Any, Any]:
    from ezdxf.document import Drawing
    from ezdxf.lldxf.tagger import binary_tags_loader

    document = Drawing.load(binary_tags_loader(data, "replace"))
    return document, document.audit()


def what_it_said(error: BaseException) -> str:
    """What an exception of a library says, in one line."""
    said = sound_text(" ".join(str(error).split())[:200])
    return "".join(c if c.isprintable() else "\ufffd" for c in said) or type(error).__name__


def sound_text(text: str) -> str:
    r"""A text that any encoding of Unicode can write: what is half a character becomes U+FFFD.

    Halves come from damaged bytes and from the notation \U+xxxx; two that belong together become one.
    """
    return text if text.isascii() else text.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
