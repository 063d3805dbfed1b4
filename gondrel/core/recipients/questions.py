"""The one-page form of questions for a new recipient: as HTML or plain text, filled in and read back."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from html import escape, unescape
from html.parser import HTMLParser

from gondrel.core.errors import MalformedFile
from gondrel.core.recipients.card import COLOURS, Card, Keeps, Limits, Reads

__all__ = ["QUESTIONS", "Question", "answered", "questions_html", "questions_text"]


@dataclass(frozen=True, slots=True)
class Question:
    """A question.

    Args:
        key: what its answer goes to; takes: how to answer, in words; usual: what holds without an answer.
    """

    key: str
    asks: str
    takes: str = ""
    usual: str = ""


QUESTIONS = (
    Question("name", "Who are you?", "firm and department"),
    Question("contact", "Whom do we ask when something is missing?"),
    Question("system", "Which system do you work with, in which version?"),
    Question("kinds", "Which files can you read, the best first?",
             "step-ap242, step-ap214, step-ap203, xt-text, xt-binary, iges-solid, iges-surface; with "
             "editions step-ap242ed2, step-ap242ed3, step-ap203ed2",
             "step-ap214"),
    Question("unit", "Which unit do you work in?", "mm, inch, m", "mm"),
    Question("trusts_unit", "Does your system take the unit that the file says?", "yes or no", "yes"),
    Question("structure", "Do you keep assemblies with their components?", "yes or no", "yes"),
    Question("surfaces", "Do solids come in as surfaces only?", "yes or no", "no"),
    Question("closed", "Do you take closed solids only?", "yes or no", "no"),
    Question("tolerance", "What gap between edges do you still take?", "mm; 0 for any", "0"),
    Question("cavities", "Do you take hollow solids, with cavities closed all around?", "yes or no", "yes"),
    Question("degree", "Up to which degree do you take splines?", "a number; 0 for any", "0"),
    Question("xt", "Up to which version do you read Parasolid files?", "as 14000 for 14.0; 0 for any", "0"),
    Question("external", "May an assembly be several files that refer to each other?", "yes or no", "no"),
    Question("colours", "Which colours do you keep?", "faces, bodies or none", "faces"),
    Question("layers", "Do you keep layers?", "yes or no", "yes"),
    Question("name_length", "How many characters of a name do you keep?", "0 for all", "0"),
    Question("metadata", "Do you keep properties and materials?", "yes or no", "yes"),
    Question("megabytes", "How large may a file be?", "MB; 0 for any", "0"),
    Question("indifferent", "What does not matter to you?", "colours, layers, names, metadata, ..."),
    Question("remarks", "Anything else?"),
)  # fmt: skip

_LINE = re.compile(r"^\[(\w+)\]\s*(.*)$")
_HEAD = "Questions before we send you models"
_TOLD = "Answer behind the brackets, leave open what you do not know, and send it back."


def questions_text() -> str:
    """The form as plain text."""
    lines = [_HEAD, "", _TOLD, ""]
    for question in QUESTIONS:
        takes = f" ({question.takes})" if question.takes else ""
        lines += [f"{question.asks}{takes}", f"[{question.key}] {question.usual}", ""]
    return "\n".join(lines)


def questions_html() -> str:
    """The form as one page that can be filled in, kept and sent back."""
    rows = "\n".join(
        f"<p><label>{escape(q.asks)}<br>"
        f"<input name='{q.key}' value='{escape(q.usual, quote=True)}'></label>"
        f"<small>{escape(q.takes)}</small></p>"
        for q in QUESTIONS
    )
    return f"""<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{_HEAD}</title><style>
body {{ font: 14px/1.35 sans-serif; margin: 2em auto; max-width: 44em; color: #1c2730; }}
input {{ width: 100%; font: inherit; padding: .3em; box-sizing: border-box; }}
p {{ margin: .45em 0; }} small {{ color: #5b6970; }} @media print {{ input {{ border: 0;
border-bottom: 1px solid #777; }} }}
</style></head><body><h1>{_HEAD}</h1>
<p>Fill it in, save the page (your answers are kept in it when you leave a field) and send it back.</p>
{rows}
<script>
document.querySelectorAll("input").forEach(function (line) {{
  line.addEventListener("change", function () {{ line.setAttribute("value", line.value); }});
}});
</script></body></html>
"""


class _Inputs(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.answers: dict[str, str] = {}

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        values = dict(attrs)
        if tag == "input" and values.get("name"):
            self.answers[str(values["name"])] = unescape(values.get("value") or "")


def answered(text: str) -> Card:
    """The card that an answered form speaks for.

    Raises:
        MalformedFile: when it is no such form, or an answer makes no sense, with the question.
    """
    if "<input" in text:
        parser = _Inputs()
        parser.feed(text)
        answers = parser.answers
    else:
        found = (_LINE.match(line.strip()) for line in text.splitlines())
        answers = {m[1]: m[2].strip() for m in found if m is not None}
    known = {q.key: q for q in QUESTIONS}
    if "name" not in answers or not known.keys() & answers.keys():
        raise MalformedFile("it is no answered form of questions")
    name = answers["name"].strip()
    key = re.sub(r"[^a-z0-9]+", "-", name.casefold()).strip("-")[:60]
    if not key:
        raise MalformedFile("the form does not say who they are", where="name")
    return _card(key, name, {k: v.strip() for k, v in answers.items() if k in known})


def _card(key: str, name: str, said: dict[str, str]) -> Card:
    card = Card(
        key, name, said.get("system", ""), contact=said.get("contact", ""),
        remarks=said.get("remarks", ""), indifferent=_words(said.get("indifferent", "")),
    )  # fmt: skip
    colours = said.get("colours", "") or "faces"
    if colours not in COLOURS:
        raise MalformedFile(
            f"colours are answered by {', '.join(COLOURS)} (got {colours!r})", where="colours"
        )
    keeps_data = _yes(said, "metadata", True)
    return replace(
        card,
        reads=Reads(_words(said.get("kinds", "")), _yes(said, "external", False)),
        keeps=Keeps(
            structure=_yes(said, "structure", True), colours=colours, layers=_yes(said, "layers", True),
            name_length=round(_number(said, "name_length")), materials=keeps_data, metadata=keeps_data,
        ),
        limits=Limits(
            unit=said.get("unit", ""), trusts_unit=_yes(said, "trusts_unit", True),
            tolerance=_number(said, "tolerance"), closed=_yes(said, "closed", False),
            surfaces=_yes(said, "surfaces", False), megabytes=_number(said, "megabytes"),
            degree=round(_number(said, "degree")), cavities=_yes(said, "cavities", True),
            xt=round(_number(said, "xt")),
        ),
    )  # fmt: skip


def _words(text: str) -> tuple[str, ...]:
    return tuple(word.strip().lower() for word in re.split(r"[,;]", text) if word.strip())


def _yes(said: dict[str, str], key: str, usual: bool) -> bool:
    text = said.get(key, "").lower()
    if not text:
        return usual
    if text[0] not in "yn":
        raise MalformedFile(f"yes or no is wanted (got {text!r})", where=key)
    return text[0] == "y"


def _number(said: dict[str, str], key: str) -> float:
    text = said.get(key, "").replace(",", ".").strip()
    match = re.fullmatch(r"(\d*\.?\d+)\s*[a-zA-Z]*", text or "0")
    if match is None:
        raise MalformedFile(f"a number is wanted (got {text!r})", where=key)
    return float(match[1])
