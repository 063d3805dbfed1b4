"""Colours, fonts and the style sheet."""

from __future__ import annotations

import re
from dataclasses import dataclass
from importlib import resources

from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetrics
from PySide6.QtWidgets import QApplication

__all__ = [
    "DARK",
    "LIGHT",
    "Palette",
    "apply_theme",
    "font",
    "icon_path",
    "palette",
    "scaled",
    "verdict_colour",
]


@dataclass(frozen=True, slots=True)
class Palette:
    """The colours of one theme, as #rrggbb."""

    paper: str
    sheet: str
    band: str
    on_band: str
    band_quiet: str
    band_field: str
    ink: str
    quiet: str
    line: str
    field: str
    accent: str
    accent_soft: str
    pine: str
    ochre: str
    brick: str
    pine_soft: str
    ochre_soft: str
    brick_soft: str
    stage_low: tuple[float, float, float]
    stage_high: tuple[float, float, float]


LIGHT = Palette(
    paper="#F6F3EC", sheet="#FFFDF8", band="#1F2A33", on_band="#F6F3EC", band_quiet="#9DB0BC",
    band_field="#33434E",
    ink="#1F2A33", quiet="#5B666E", line="#DEDACE", field="#EFEBE0", accent="#1D5C7A",
    accent_soft="#E1EAEF", pine="#2F6F4F", ochre="#9A640F", brick="#A63D40",
    pine_soft="#E6EFE8", ochre_soft="#F6F0E2", brick_soft="#F8EAE9",
    stage_low=(0.878, 0.886, 0.878), stage_high=(0.980, 0.976, 0.961),
)  # fmt: skip

DARK = Palette(
    paper="#1B2329", sheet="#222B32", band="#12181D", on_band="#EDE8DC", band_quiet="#8FA3B0",
    band_field="#27323A",
    ink="#ECE8DF", quiet="#A3AFB6", line="#38434B", field="#2C363E", accent="#6FB4D6",
    accent_soft="#2A4555", pine="#7CC79D", ochre="#E2AE55", brick="#EC8A8C",
    pine_soft="#26382F", ochre_soft="#3B3424", brick_soft="#402A2C",
    stage_low=(0.13, 0.16, 0.18), stage_high=(0.22, 0.26, 0.29),
)  # fmt: skip

_current = LIGHT
_scale = 1.0
_LARGE = 1.18


def palette() -> Palette:
    """The colours in use."""
    return _current


def verdict_colour(verdict: str) -> str:
    """Colour of a verdict, fate or severity."""
    p = _current
    return {
        "carried": p.pine, "clean": p.pine, "altered": p.ochre, "doubt": p.ochre, "lost": p.brick,
        "fault": p.brick, "added": p.accent,
    }.get(verdict, p.quiet)  # fmt: skip


def font(size: float, weight: QFont.Weight = QFont.Weight.Normal, spacing: float = 0.0) -> QFont:
    """The shipped font at a size in pixels."""
    made = QFont("Inter")
    made.setPixelSize(round(size * _scale))
    made.setWeight(weight)
    if spacing:
        made.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, spacing)
    return made


def scaled(pixels: float) -> int:
    """A height or width that grows with the type."""
    return round(pixels * _scale)


def elided(text: str, made: QFont, width: int) -> str:
    """Text cut to a width with an ellipsis."""
    from PySide6.QtCore import Qt

    return QFontMetrics(made).elidedText(text, Qt.TextElideMode.ElideRight, width)


def icon_path(name: str = "gondrel") -> str:
    """An icon as a file; the application's own by default."""
    return str(resources.files("gondrel.ui.resources") / "icons" / f"{name}.svg")


def load_fonts() -> None:
    """Make the shipped fonts known. Raises RuntimeError when one can't be loaded."""
    for entry in sorted((resources.files("gondrel.ui.resources") / "fonts").iterdir(), key=str):
        if entry.name.endswith(".otf") and QFontDatabase.addApplicationFont(str(entry)) < 0:
            raise RuntimeError(f"the font {entry.name} can't be loaded")


def apply_theme(application: QApplication, chosen: Palette = LIGHT, *, large: bool = False) -> None:
    """Set colours, font and style sheet of the whole application."""
    global _current, _scale
    _current, _scale = chosen, _LARGE if large else 1.0
    application.setFont(font(13))
    application.setStyle("Fusion")
    colours = application.palette()
    for role, colour in (
        (colours.ColorRole.Window, chosen.paper), (colours.ColorRole.Base, chosen.sheet),
        (colours.ColorRole.Text, chosen.ink), (colours.ColorRole.WindowText, chosen.ink),
        (colours.ColorRole.ButtonText, chosen.ink), (colours.ColorRole.Button, chosen.field),
        (colours.ColorRole.Highlight, chosen.accent), (colours.ColorRole.HighlightedText, "#ffffff"),
        (colours.ColorRole.PlaceholderText, chosen.quiet),
        (colours.ColorRole.ToolTipBase, chosen.sheet), (colours.ColorRole.ToolTipText, chosen.ink),
    ):  # fmt: skip
        colours.setColor(role, QColor(colour))
    application.setPalette(colours)
    style = re.sub(
        r"font-size: (\d+)px", lambda m: f"font-size: {round(int(m[1]) * _scale)}px", _style(chosen)
    )
    application.setStyleSheet(style)


def _style(p: Palette) -> str:
    return f"""
QWidget#sheet, QWidget#manifest {{ background: {p.sheet}; }}
QScrollArea, QScrollArea > QWidget > QWidget {{ background: {p.sheet}; border: none; }}
QDialog#page, QDialog#page QScrollArea > QWidget > QWidget {{ background: {p.sheet}; }}
QFrame#search, QFrame#error, QFrame#work, QWidget#stagetools, QFrame#legend, QWidget#welcome {{
  background: {p.sheet}; border: 1px solid {p.line}; border-radius: 10px; }}
QFrame#error {{ border-color: {p.brick}; background: {p.brick_soft}; }}
QWidget#stagetools {{ border-radius: 14px; }}
QFrame#stagepanel {{ background: {p.sheet}; border: 1px solid {p.line}; border-radius: 8px; }}
QFrame#stagepanel QDoubleSpinBox {{ background: {p.field}; border: 1px solid transparent;
  border-radius: 5px; padding: 3px 6px; color: {p.ink}; }}
QFrame#stagepanel QDoubleSpinBox:focus {{ border-color: {p.accent}; }}
QDoubleSpinBox::up-button, QDoubleSpinBox::down-button {{ width: 15px; border: none;
  background: transparent; }}
QPushButton[role="mode"] {{ background: {p.sheet}; border: 1px solid {p.line}; border-radius: 5px;
  padding: 4px 10px; color: {p.ink}; font-size: 12px; text-align: left; }}
QPushButton[role="mode"]:checked {{ background: {p.accent}; border-color: {p.accent}; color: {p.sheet}; }}
QPushButton[role="chipbutton"] {{ border: 1px solid {p.line}; border-radius: 5px; padding: 3px 8px;
  color: {p.ink}; font-size: 12px; font-weight: 400; }}
QPushButton[role="chipbutton"]:checked {{ background: {p.accent_soft}; border-color: {p.accent}; }}
QPushButton[role="chipbutton"]:hover {{ border-color: {p.accent}; }}
QPushButton[role="figure"] {{ border: none; padding: 1px 2px; color: {p.ink}; font-size: 12px;
  font-weight: 500; text-align: right; }}
QPushButton[role="figure"]:hover {{ color: {p.accent}; }}
QWidget#welcome {{ border: none; background: transparent; }}
QListWidget {{ background: {p.sheet}; color: {p.ink}; border: 1px solid {p.line}; border-radius: 6px;
  outline: none; }}
QFrame#search QListWidget {{ border: none; }}
QListWidget::item {{ padding: 3px; border-radius: 4px; }}
QListWidget::item:selected {{ background: {p.accent_soft}; color: {p.ink}; }}
QPlainTextEdit, QSpinBox {{ background: {p.field}; border: 1px solid transparent; border-radius: 5px;
  padding: 5px 8px; color: {p.ink}; }}
QSpinBox:focus {{ border-color: {p.accent}; }}
QSpinBox::up-button, QSpinBox::down-button {{ width: 16px; border: none; background: transparent; }}
QCheckBox {{ color: {p.ink}; spacing: 8px; }}
QCheckBox::indicator {{ width: 13px; height: 13px; border-radius: 3px; border: 1.5px solid {p.quiet};
  background: {p.sheet}; }}
QCheckBox::indicator:checked {{ background: {p.accent}; border-color: {p.accent};
  image: url("{icon_path("tick")}"); }}
QListWidget {{ background: {p.field}; border: none; border-radius: 5px; padding: 3px; }}
QListWidget::indicator {{ width: 13px; height: 13px; border-radius: 3px; border: 1.5px solid {p.quiet};
  background: {p.sheet}; }}
QListWidget::indicator:checked {{ background: {p.accent}; border-color: {p.accent};
  image: url("{icon_path("tick")}"); }}
QPushButton[role="link"] {{ border: none; padding: 3px 0; text-align: left; color: {p.accent};
  font-weight: 500; }}
QLabel {{ color: {p.ink}; background: transparent; }}
QLabel[role="quiet"] {{ color: {p.quiet}; }}
QLabel[role="head"] {{ color: {p.quiet}; font-size: 11px; font-weight: 600; letter-spacing: 1px; }}
QLabel[role="title"] {{ font-size: 17px; font-weight: 600; }}
QLabel[role="name"] {{ font-size: 14px; font-weight: 500; }}
QLabel#notice {{ background: {p.ink}; color: {p.paper}; border-radius: 6px; padding: 7px 12px;
  font-size: 12px; }}
QLabel[role="line"] {{ color: {p.ink}; font-size: 11px; background: {p.sheet}; border-radius: 4px;
  padding: 2px 6px; }}
QLabel[role="card-title"] {{ font-size: 13px; font-weight: 500; }}
QLabel[role="card-text"] {{ font-size: 12px; }}
QLabel[role="note"] {{ color: {p.quiet}; font-size: 11px; }}
QLabel[role="chip"] {{ color: {p.quiet}; font-size: 11px; font-weight: 600; letter-spacing: 1px;
  background: {p.sheet}; border-radius: 4px; padding: 2px 6px; }}
QFrame[role="rule"] {{ background: {p.line}; max-height: 1px; min-height: 1px; border: none; }}
QLineEdit, QComboBox {{ background: {p.field}; border: 1px solid transparent; border-radius: 5px;
  padding: 5px 8px; color: {p.ink}; selection-background-color: {p.accent}; }}
QLineEdit:focus, QComboBox:focus {{ border-color: {p.accent}; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox QAbstractItemView {{ background: {p.sheet}; border: 1px solid {p.line}; outline: none; }}
QPushButton {{ border: 1px solid {p.accent}; border-radius: 6px; padding: 7px 12px;
  color: {p.accent}; background: transparent; font-weight: 500; }}
QPushButton:hover {{ background: {p.accent_soft}; }}
QPushButton:focus {{ border: 2px solid {p.accent}; padding: 6px 11px; }}
QPushButton:disabled {{ color: {p.quiet}; border-color: {p.line}; }}
QPushButton[role="main"] {{ background: {p.accent}; color: {p.sheet}; font-size: 14px;
  font-weight: 600; padding: 10px 12px; }}
QPushButton[role="main"]:hover {{ background: {p.ink}; border-color: {p.ink}; }}
QPushButton[role="main"]:disabled {{ background: {p.field}; color: {p.quiet}; border-color: {p.line}; }}
QPushButton[role="pill"] {{ border: none; border-radius: 11px; padding: 4px 9px; color: {p.quiet};
  font-size: 12px; }}
QPushButton[role="pill"]:checked {{ background: {p.accent}; color: {p.sheet}; }}
QPushButton[role="tool"] {{ border: none; padding: 6px 9px; color: {p.ink}; font-size: 12px; }}
QPushButton[role="tool"]:hover, QPushButton[role="tool"]:checked {{ color: {p.accent};
  background: transparent; }}
QPushButton[role="tool"]:checked {{ font-weight: 700; }}
QPushButton[role="tool"]:disabled {{ color: {p.line}; }}
QRadioButton {{ color: {p.ink}; spacing: 8px; padding: 2px; }}
QRadioButton::indicator {{ width: 13px; height: 13px; border-radius: 8px;
  border: 1.5px solid {p.quiet}; background: {p.sheet}; }}
QRadioButton::indicator:checked {{ border: 4.5px solid {p.accent}; width: 7px; height: 7px; }}
QTreeView {{ background: {p.sheet}; border: none; color: {p.ink}; outline: none; font-size: 12px; }}
QHeaderView::section {{ background: {p.sheet}; color: {p.quiet}; border: none; padding: 2px 2px;
  font-size: 10px; font-weight: 600; }}
QScrollBar:vertical {{ background: transparent; width: 9px; }}
QScrollBar::handle:vertical {{ background: {p.line}; border-radius: 4px; min-height: 24px; }}
QScrollBar:horizontal {{ background: transparent; height: 9px; }}
QScrollBar::handle:horizontal {{ background: {p.line}; border-radius: 4px; min-width: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QSplitter::handle {{ background: {p.sheet}; border-left: 1px solid {p.line}; }}
QSplitter::handle:hover {{ background: {p.accent_soft}; }}
QToolTip {{ background: {p.sheet}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px; }}
QMenu {{ background: {p.sheet}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px; }}
QMenu::item {{ padding: 5px 22px 5px 14px; border-radius: 4px; }}
QMenu::item:selected {{ background: {p.accent_soft}; }}
QMenu::item:disabled {{ color: {p.quiet}; }}
QMenu::separator {{ height: 1px; background: {p.line}; margin: 4px 6px; }}
"""
