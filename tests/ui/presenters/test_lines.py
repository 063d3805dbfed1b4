"""What is under the pointer, the search, the file card: words made of data."""

from __future__ import annotations

import math

from gondrel.core.model import FileFacts, Writer
from gondrel.core.model.detail import BodyDetail, EdgeDetail, FaceDetail
from gondrel.core.reports.figures import Figures
from gondrel.ui.presenters.detail import edge_line, face_line
from gondrel.ui.presenters.search import SearchText, find
from gondrel.ui.presenters.text import card_lines, subtitle

MM = Figures("mm", 2)
DETAIL = BodyDetail.of(
    faces=(
        FaceDetail("plane", 2400.0),
        FaceDetail("cylinder", 376.99, (12.0,)),
        FaceDetail("cone", 50.0, (), math.radians(30)),
        FaceDetail("torus", 10.0, (40.0, 6.0)),
        FaceDetail("bspline", 7.0),
    ),
    edges=(
        EdgeDetail("line", 60.0),
        EdgeDetail("circle", math.pi * 12, 12.0),
        EdgeDetail("circle", 5.0, 12.0),
        EdgeDetail("bspline", 9.0),
    ),
)


def test_faces_are_told_by_kind_and_size() -> None:
    lines = [face_line(DETAIL, i, MM) for i in range(5)]
    assert lines[0] == "plane, 2,400.00 mm\u00b2"
    assert "\u00d8 12.00 mm" in lines[1]
    assert "half angle 30.000\u00b0" in lines[2]
    assert "tube \u00d8 6.00 mm" in lines[3]
    assert lines[4].startswith("free-form face")
    assert face_line(None, 4, MM) == "face 5"
    assert face_line(DETAIL, 99, MM) == "face 100"


def test_edges_are_told_by_kind_and_length() -> None:
    lines = [edge_line(DETAIL, i, Figures("inch", 3)) for i in range(4)]
    assert lines[0] == "straight edge, length 2.3622 in"
    assert lines[1].startswith("circle \u00d8 0.4724 in")
    assert lines[2].startswith("arc ")
    assert lines[3].startswith("free-form edge")
    assert edge_line(None, 0, MM) == "edge 1"


def test_search_wants_every_word_and_prefers_beginnings() -> None:
    things = [
        SearchText("Unsaved work", ""),
        SearchText("Save crossing", "Ctrl+S"),
        SearchText("Save report", "", "pdf print"),
    ]
    assert find(things, "sav", 5) == [2, 1, 0]
    assert find(things, "save print", 5) == [2]
    assert find(things, "zebra", 5) == []
    assert find(things, "", 2) == [0, 1]


def test_the_card_leaves_out_what_the_file_does_not_say() -> None:
    card = FileFacts(
        "/a/b.stp", 2_500_000, "step", "text", "AP242", length_unit="", counts=(("solids", 3),)
    )
    lines = dict(card_lines(card))
    assert lines["Size"].startswith("2.5 MB")
    assert "mm assumed" in lines["Unit"]
    assert lines["Bodies"] == "3 solids"
    assert "Author" not in lines
    named = FileFacts("/a", 10, "step", written_by=Writer(author="A", organisation="B"))
    assert dict(card_lines(named))["Author"] == "A, B"
    assert dict(card_lines(named))["Size"].startswith("10 bytes")


def test_the_line_under_the_name_says_when_and_what() -> None:
    assert subtitle(None, "") == "nothing received yet"
    card = FileFacts("/a", 10, "step", schema="AP214", length_unit="inch")
    assert (
        subtitle(card, "2026-11-24T09:12:31") == "received 2026-11-24 09:12 \u00b7 STEP AP214 \u00b7 inch"
    )
    assert subtitle(card, "").startswith("reading")
