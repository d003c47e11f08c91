"""Colours, type and the style sheet, light and dark."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from waxtwin import ASSETS

_FONTS = ASSETS / "fonts"
_ICONS = ASSETS / "icons"
FAMILY = "Manrope"


@dataclass(frozen=True)
class Theme:
    """Named colours. Athlete and twin differ in lightness as well as hue; caution also carries a shape."""

    name: str
    paper: str
    panel: str
    rail: str
    ink: str
    soft: str
    hairline: str
    stage: str
    stage_ink: str
    athlete: str
    athlete_soft: str
    twin: str
    twin_soft: str
    thread: str
    caution: str
    caution_paper: str


LIGHT = Theme(
    "light", paper="#F6F2EA", panel="#FBF9F4", rail="#EBE4D6", ink="#23282C", soft="#625D54", hairline="#D9D1C2",
    stage="#1D2226", stage_ink="#E9E4DA", athlete="#8F5709", athlete_soft="#F0C36B", twin="#1A6273",
    twin_soft="#8CC3CE", thread="#A93226", caution="#8A4B08", caution_paper="#FFF1D6",
)  # fmt: skip
DARK = Theme(
    "dark", paper="#23282C", panel="#2A3035", rail="#1B2023", ink="#EFEAE0", soft="#B4AEA3", hairline="#3E464C",
    stage="#14181B", stage_ink="#E9E4DA", athlete="#F0C36B", athlete_soft="#F0C36B", twin="#8CC3CE",
    twin_soft="#8CC3CE", thread="#E8806F", caution="#FFD18A", caution_paper="#4A3413",
)  # fmt: skip
THEMES = {theme.name: theme for theme in (LIGHT, DARK)}


@dataclass(frozen=True)
class Tone:
    """What belongs to a side: its figure's wax, its rail and band, its words on paper, its words on the dark."""

    wax: str
    rail: str
    ink: str
    soft: str


TONES = {
    "athlete": Tone("#D59A3C", "#C47A12", LIGHT.athlete, LIGHT.athlete_soft),
    "twin": Tone("#5C99A7", "#1F6E80", LIGHT.twin, LIGHT.twin_soft),
    "twin2": Tone("#A48CC9", "#6A4FA0", "#5F4694", "#C3B0E6"),
    "twin3": Tone("#C88A97", "#A14D62", "#8E3F55", "#E6AEBA"),
    "twin4": Tone("#A8A093", "#6B645A", "#57514A", "#D0C8BB"),
}
AMBER, TEAL = TONES["athlete"].rail, TONES["twin"].rail
WAX = {side: tone.wax for side, tone in TONES.items()}

_current = LIGHT
_desktop = 0.0  # the desktop's own size of type, in points


def theme() -> Theme:
    """The theme in use."""
    return _current


def is_dressed() -> bool:
    """Whether the application wears a theme already."""
    return _desktop > 0


def colour(name: str, alpha: int = 255) -> QColor:
    """A theme colour by name, or any #rrggbb."""
    value = QColor(getattr(_current, name, name))
    value.setAlpha(alpha)
    return value


def side_colour(side: str, *, soft: bool = False) -> QColor:
    """The colour of a side's words: the athlete's amber, the twin's teal, a further twin's own."""
    tone = TONES[side]
    return QColor(tone.soft if soft or _current is DARK else tone.ink)


def load_fonts() -> None:
    """Register the shipped font family."""
    for file in sorted(_FONTS.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(file))


def font(points: float = 0.0, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """The shipped face with tabular figures; `points` is added to the desktop's size."""
    return _font(max(QApplication.font().pointSizeF() + points, 6.0), weight)


@cache
def _font(size: float, weight: QFont.Weight) -> QFont:
    made = QFont(FAMILY)
    made.setPointSizeF(size)
    made.setWeight(weight)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


def apply(name: str, text: int = 0) -> None:
    """Dress the whole application; `text` points are added to the desktop's own size of type."""
    global _current, _desktop
    _current = THEMES[name]
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    _desktop = _desktop or app.font().pointSizeF()
    grown = _desktop + text - app.font().pointSizeF()
    app.setFont(_font(_desktop + text, QFont.Weight.Normal))
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: "paper", QPalette.ColorRole.Base: "panel", QPalette.ColorRole.Text: "ink",
        QPalette.ColorRole.WindowText: "ink", QPalette.ColorRole.Button: "panel", QPalette.ColorRole.ButtonText: "ink",
        QPalette.ColorRole.ToolTipBase: "panel", QPalette.ColorRole.ToolTipText: "ink",
        QPalette.ColorRole.Highlight: "thread", QPalette.ColorRole.PlaceholderText: "soft",
        QPalette.ColorRole.AlternateBase: "paper",
    }  # fmt: skip
    for role, value in roles.items():
        palette.setColor(role, colour(value))
    palette.setColor(QPalette.ColorRole.HighlightedText, QColor("#FFFFFF"))
    app.setPalette(palette)
    for window in app.topLevelWidgets():
        worn = window.styleSheet()
        if worn and (worn != _sheet(_current) or abs(grown) > 0.01):
            dress(window)
    if abs(grown) > 0.01:  # what has a face of its own grows along
        for widget in app.allWidgets():
            if widget.testAttribute(Qt.WidgetAttribute.WA_SetFont):
                face = widget.font()
                face.setPointSizeF(max(face.pointSizeF() + grown, 6.0))
                widget.setFont(face)


def dress(window: QWidget) -> None:
    """Dress a window and all that belongs to it, now and whenever another theme is applied.

    Not the application: each widget would be dressed anew at every place it passes through while a room is built, and
    another theme took four times as long.
    """
    window.setStyleSheet(_sheet(_current))


def _icon(name: str, t: Theme) -> str:
    """A shipped icon, light or dark; style sheets take forward slashes only."""
    return (_ICONS / f"{name}-{t.name}.svg").as_posix()


def _sheet(t: Theme) -> str:
    return f"""
    QWidget {{ background: {t.paper}; color: {t.ink}; }}
    QLabel {{ background: transparent; }}
    QLabel[role="soft"] {{ color: {t.soft}; }}
    QLabel[role="title"] {{ font-weight: 700; }}
    QLabel[side="athlete"] {{ color: {t.athlete}; font-weight: 700; }}
    QLabel[side="twin"] {{ color: {t.twin}; font-weight: 700; }}
    QLabel[role="thread"] {{ color: {t.thread}; font-weight: 700; }}
    QLabel[role="good"] {{ color: {t.twin}; font-weight: 700; }}
    QLabel[role="caution"] {{ color: {t.caution}; }}
    #tour {{ background: {t.panel}; border: 2px solid {t.thread}; border-radius: 10px; }}
    #tour QLabel {{ background: transparent; }}
    QTextBrowser {{ background: {t.panel}; border: 1px solid {t.hairline}; border-radius: 5px; padding: 8px; }}
    #sheets {{ background: {t.rail}; }}
    #card {{ background: {t.panel}; border: 1px solid {t.hairline}; border-radius: 8px; }}
    #card > QWidget {{ background: {t.panel}; }}
    #rail {{ background: {t.rail}; }}
    #rail QToolButton {{ background: transparent; border: none; border-left: 4px solid transparent; border-radius: 0;
        color: {t.soft}; padding: 10px 4px; }}
    #rail QToolButton:checked {{ background: {t.paper}; border-left: 4px solid {t.thread}; color: {t.ink};
        font-weight: 700; }}
    #rail QToolButton:hover {{ color: {t.ink}; }}
    QPushButton, QToolButton {{ background: {t.panel}; border: 1px solid {t.hairline}; border-radius: 5px;
        padding: 5px 11px; color: {t.ink}; }}
    QToolButton::menu-indicator {{ image: none; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {t.soft}; }}
    QPushButton:pressed, QToolButton:pressed {{ background: {t.rail}; }}
    QPushButton:checked, QToolButton:checked {{ background: {t.ink}; color: {t.paper}; border-color: {t.ink}; }}
    QPushButton:focus, QToolButton:focus {{ outline: none; border-color: {t.thread}; }}
    #rail QToolButton:focus {{ color: {t.thread}; }}
    QToolButton[role="line"] {{ background: transparent; border-color: transparent; padding: 1px 5px; }}
    QToolButton[role="line"]:checked {{ background: transparent; color: {t.thread}; font-weight: 700; }}
    QToolButton[role="line"]:hover, QToolButton[role="line"]:focus {{ border-color: {t.soft}; }}
    QFileDialog QToolButton {{ padding: 4px; }}
    QFileDialog QToolButton:checked {{ background: {t.rail}; border-color: {t.soft}; }}
    QFileDialog QListView {{ background: {t.panel}; border: 1px solid {t.hairline}; border-radius: 5px; padding: 4px; }}
    QToolButton[role="small"] {{ padding: 1px 8px; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {t.soft}; border-color: {t.hairline}; }}
    QPushButton:checked:disabled, QToolButton:checked:disabled {{ background: {t.rail}; color: {t.ink}; }}
    QPushButton[role="main"] {{ background: {t.thread}; color: {"#FFFFFF" if t.name == "light" else "#23282C"};
        border-color: {t.thread}; font-weight: 700; }}
    QPushButton[role="ask"] {{ background: {t.caution_paper}; color: {t.caution}; border-color: {t.caution};
        text-align: left; }}
    QPushButton[role="main"]:disabled {{ background: {t.rail}; color: {t.soft}; border-color: {t.hairline}; }}
    QLineEdit, QPlainTextEdit, QComboBox, QAbstractSpinBox {{ background: {t.panel}; color: {t.ink};
        border: 1px solid {t.hairline}; border-radius: 5px; padding: 4px 8px; selection-background-color: {t.thread}; }}
    QLineEdit:focus, QPlainTextEdit:focus, QComboBox:focus, QAbstractSpinBox:focus {{ border-color: {t.thread}; }}
    QLineEdit:disabled, QComboBox:disabled, QAbstractSpinBox:disabled {{ color: {t.soft}; }}
    QCheckBox {{ spacing: 7px; }}
    QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {t.soft}; border-radius: 3px;
        background: {t.panel}; }}
    QCheckBox::indicator:checked {{ background: {t.thread}; border-color: {t.thread};
        image: url({_icon("check", t)}); }}
    QCheckBox::indicator:focus {{ border-color: {t.thread}; }}
    QAbstractSpinBox {{ padding: 1px 0; }}
    QAbstractSpinBox QLineEdit {{ border: none; background: transparent; padding: 0; }}
    QComboBox::drop-down, QDateEdit::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow, QDateEdit::down-arrow {{ image: url({_icon("down", t)}); width: 10px; height: 10px; }}
    QComboBox QAbstractItemView {{ background: {t.panel}; border: 1px solid {t.hairline}; color: {t.ink};
        selection-background-color: {t.rail}; selection-color: {t.ink}; }}
    QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ width: 0; border: none; }}
    QListWidget {{ background: {t.panel}; border: 1px solid {t.hairline}; border-radius: 5px; outline: none; }}
    QListWidget::item {{ padding: 4px 6px; color: {t.ink}; }}
    QListWidget::item:selected {{ background: {t.rail}; color: {t.ink}; }}
    QTabWidget::pane {{ border: none; border-top: 1px solid {t.hairline}; }}
    QTabBar::tab {{ background: transparent; color: {t.soft}; border: none; border-bottom: 3px solid transparent;
        padding: 7px 16px; }}
    QTabBar::tab:selected {{ color: {t.ink}; border-bottom: 3px solid {t.thread}; font-weight: 700; }}
    QMenuBar {{ background: {t.rail}; }}
    QMenuBar::item {{ background: transparent; padding: 4px 10px; }}
    QMenuBar::item:selected {{ background: {t.paper}; }}
    QMenu {{ background: {t.panel}; border: 1px solid {t.hairline}; padding: 4px; }}
    QMenu::item {{ padding: 5px 26px 5px 22px; }}
    QMenu::item:selected {{ background: {t.rail}; }}
    QMenu::item:disabled {{ color: {t.soft}; }}
    QMenu::separator {{ height: 1px; background: {t.hairline}; margin: 4px 8px; }}
    QTableView, QTreeView {{ background: {t.paper}; border: none; gridline-color: {t.hairline};
        selection-background-color: {t.rail}; selection-color: {t.ink}; outline: none; }}
    QTreeView::item {{ padding: 4px 3px; }}
    QTreeView::item:selected, QTreeView::branch:selected {{ background: {t.rail}; color: {t.ink}; }}
    QHeaderView::section {{ background: {t.paper}; color: {t.soft}; border: none;
        border-bottom: 1px solid {t.hairline}; padding: 5px 6px; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: {t.paper}; border: none; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 9px; margin: 0; }}
    QScrollBar::handle {{ background: {t.hairline}; border-radius: 4px; min-height: 26px; min-width: 26px; }}
    QScrollBar::handle:hover {{ background: {t.soft}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QToolTip {{ background: {t.panel}; color: {t.ink}; border: 1px solid {t.hairline}; padding: 4px; }}
    #notice {{ background: {t.rail}; border-bottom: 2px solid {t.soft}; }}
    #notice QLabel {{ color: {t.ink}; }}
    #notice[kind="fault"] {{ background: {t.caution_paper}; border-bottom: 2px solid {t.caution}; }}
    #notice[kind="fault"] QLabel {{ color: {t.caution}; }}
    #notice[kind="success"] {{ background: {t.panel}; border-bottom: 2px solid {t.twin}; }}
    #notice[kind="success"] QLabel {{ color: {t.twin}; }}
    #notice QPushButton {{ background: transparent; border: 1px solid {t.soft}; color: {t.ink}; padding: 2px 10px; }}
    #busy {{ background: {t.rail}; border-bottom: 1px solid {t.hairline}; }}
    #busy QPushButton {{ background: transparent; padding: 2px 10px; }}
    #talk_bar {{ background: {t.rail}; border-radius: 6px; }}
    #talk_bar QPushButton, #talk_bar QComboBox {{ padding: 3px 12px; }}
    #eye {{ border: none; border-left: 3px solid transparent; }}
    #eye[hand="true"] {{ border-left: 3px solid {t.thread}; }}
    #cautions {{ background: {t.caution_paper}; border-radius: 6px; }}
    #cautions QLabel {{ color: {t.caution}; }}
    QProgressBar {{ background: {t.rail}; border: none; border-radius: 3px; max-height: 6px; }}
    QProgressBar::chunk {{ background: {t.thread}; border-radius: 3px; }}
    """
