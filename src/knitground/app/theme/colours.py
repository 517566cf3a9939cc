"""The one place for colours, and the style sheet made of them."""

from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QGuiApplication, QPalette
from PySide6.QtWidgets import QApplication, QWidget

_DRESSED = "dressed"
_LETTERS = 13


@dataclass(frozen=True)
class Theme:
    """Colours by what they are for."""

    window: str
    panel: str
    well: str
    ink: str
    quiet: str
    line: str
    thread: str
    on_thread: str
    focus: str
    warning: str
    fine: str

    def colour(self, name: str, alpha: int = 255) -> QColor:
        """A colour by its field's name."""
        colour = QColor(getattr(self, name))
        colour.setAlpha(alpha)
        return colour


LIGHT = Theme(
    window="#EFE9DF", panel="#F8F4EC", well="#DAD2C4", ink="#2B2622", quiet="#62584F", line="#CFC5B4",
    thread="#A63A2B", on_thread="#FFFFFF", focus="#2F5D8A", warning="#7E5200", fine="#3F6B3A",
)  # fmt: skip
DARK = Theme(
    window="#1E1B18", panel="#272320", well="#151311", ink="#EDE6DA", quiet="#A89E90", line="#3A342E",
    thread="#E8836B", on_thread="#1E1B18", focus="#7FA8D1", warning="#E0B25A", fine="#8DBB84",
)  # fmt: skip


class _Current:
    theme = LIGHT


def theme() -> Theme:
    """The theme in use."""
    return _Current.theme


def follow_system(app: QApplication) -> None:
    """Takes the system's light or dark scheme, now and when it changes."""
    hints = QGuiApplication.styleHints()
    hints.colorSchemeChanged.connect(lambda scheme: use(app, DARK if scheme == Qt.ColorScheme.Dark else LIGHT))
    use(app, DARK if hints.colorScheme() == Qt.ColorScheme.Dark else LIGHT)


def use(app: QApplication, wanted: Theme) -> None:
    """Dresses the application in a theme."""
    _Current.theme = wanted
    app.setStyle("Fusion")
    palette = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, "window"), (QPalette.ColorRole.Base, "panel"), (QPalette.ColorRole.Button, "panel"),
        (QPalette.ColorRole.AlternateBase, "window"), (QPalette.ColorRole.WindowText, "ink"), (QPalette.ColorRole.Text, "ink"),
        (QPalette.ColorRole.ButtonText, "ink"), (QPalette.ColorRole.ToolTipBase, "panel"), (QPalette.ColorRole.ToolTipText, "ink"),
        (QPalette.ColorRole.Link, "focus"), (QPalette.ColorRole.Highlight, "focus"), (QPalette.ColorRole.HighlightedText, "panel"),
        (QPalette.ColorRole.PlaceholderText, "quiet"), (QPalette.ColorRole.Mid, "line"),
    ):  # fmt: skip
        palette.setColor(role, wanted.colour(name))
    app.setPalette(palette)
    # Not by the style sheet: parts that are not dressed yet have to know how large they will be.
    font = app.font()
    font.setPixelSize(_LETTERS)
    app.setFont(font)
    for window in app.topLevelWidgets():
        if window.property(_DRESSED):
            dress(window)


def dress(window: QWidget) -> None:
    """Gives a window the style sheet, now and whenever the theme changes; its dialogs and menus have it from there.

    The application as a whole has none: all that a widget holds would be dressed anew whenever it is put into another,
    which takes most of the time that a part of the window needs to come up. So parts are put together first.
    """
    window.setProperty(_DRESSED, True)
    window.setStyleSheet(_style_sheet(theme()))


def _style_sheet(t: Theme) -> str:
    return f"""
    * {{ color: {t.ink}; }}
    QMainWindow, QDialog {{ background: {t.window}; }}
    QToolTip {{ background: {t.panel}; color: {t.ink}; border: 1px solid {t.line}; padding: 4px; }}
    #half {{ background: {t.well}; border: 1px solid {t.line}; border-radius: 8px; }}
    #popup {{ background: {t.panel}; border: 1px solid {t.line}; }}
    #card {{ background: {t.panel}; border: 1px solid {t.line}; border-radius: 8px; }}
    #heading {{ font-size: 14px; font-weight: 600; }}
    #quiet {{ color: {t.quiet}; font-size: 12px; }}
    #warning {{ color: {t.warning}; font-size: 12px; }}
    #fine {{ color: {t.fine}; font-size: 12px; }}
    #bar {{ background: {t.window}; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
    QPushButton, QToolButton {{ background: {t.panel}; border: 1px solid {t.line}; border-radius: 6px;
        padding: 4px 12px; min-height: 18px; }}
    QToolButton {{ padding: 4px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {t.quiet}; }}
    QPushButton:focus, QToolButton:focus {{ border: 1px solid {t.focus}; }}
    QPushButton:checked, QToolButton:checked {{ background: {t.thread}; border-color: {t.thread}; color: {t.on_thread}; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {t.quiet}; background: transparent; }}
    QListWidget#pictures::item {{ border: 2px solid transparent; border-radius: 6px; padding: 4px; color: {t.ink}; }}
    QListWidget#pictures::item:selected {{ border-color: {t.thread}; background: {t.panel}; color: {t.ink}; }}
    QPushButton#primary {{ background: {t.thread}; border-color: {t.thread}; color: {t.on_thread}; font-weight: 600; }}
    QPushButton#primary:disabled {{ background: transparent; border-color: {t.line}; color: {t.quiet}; }}
    QPushButton#box {{ text-align: left; padding: 4px 12px; }}
    QPushButton#flat, QToolButton#flat {{ background: transparent; border-color: transparent; padding: 4px 6px; }}
    QPushButton#flat:checked, QToolButton#flat:checked {{ background: {t.thread}; }}
    QPushButton#flat:hover, QToolButton#flat:hover {{ border-color: {t.line}; }}
    QPushButton#flat:focus, QToolButton#flat:focus {{ border-color: {t.focus}; }}
    QPushButton#tab {{ background: transparent; border: none; border-bottom: 2px solid transparent; border-radius: 0;
        padding: 4px 6px; color: {t.quiet}; }}
    QPushButton#tab:checked {{ color: {t.ink}; border-bottom-color: {t.thread}; background: transparent; }}
    QPushButton#tab:focus {{ border-bottom-color: {t.focus}; }}
    QSpinBox, QDoubleSpinBox, QLineEdit, QComboBox {{ background: {t.panel}; border: 1px solid {t.line}; border-radius: 6px;
        padding: 2px 8px; min-height: 22px; selection-background-color: {t.focus}; selection-color: {t.panel}; }}
    QAbstractSpinBox QLineEdit, QComboBox QLineEdit {{ border: none; padding: 0; min-height: 0;
        background: transparent; }}
    QSpinBox:focus, QDoubleSpinBox:focus, QLineEdit:focus, QComboBox:focus {{ border-color: {t.focus}; }}
    QSpinBox:disabled, QDoubleSpinBox:disabled, QLineEdit:disabled, QComboBox:disabled {{ color: {t.quiet};
        background: transparent; }}
    QCheckBox:disabled, QLabel:disabled {{ color: {t.quiet}; }}
    QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ subcontrol-origin: border; width: 0; height: 0; border: none; }}
    QComboBox::drop-down {{ border: none; width: 22px; }}
    QComboBox::down-arrow {{ image: none; }}
    QComboBox QAbstractItemView, QMenu {{ background: {t.panel}; border: 1px solid {t.line}; padding: 4px;
        selection-background-color: {t.focus}; selection-color: {t.panel}; }}
    QMenu::item {{ padding: 6px 24px 6px 12px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {t.focus}; color: {t.panel}; }}
    QMenu::item:disabled {{ color: {t.quiet}; }}
    QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px; }}
    QListWidget {{ background: transparent; border: none; outline: none; }}
    QListWidget::item {{ border-radius: 6px; padding: 6px 8px; }}
    QListWidget::item:selected {{ background: {t.focus}; color: {t.panel}; }}
    QListWidget::indicator {{ width: 12px; height: 12px; border: 2px solid {t.quiet}; border-radius: 4px; background: {t.panel}; }}
    QListWidget::indicator:checked {{ background: {t.thread}; border-color: {t.thread}; }}
    QListWidget#deliveries::item {{ border: 2px solid transparent; padding: 3px 8px; }}
    QListWidget#deliveries::item:selected {{ background: {t.panel}; border-color: {t.thread}; color: {t.ink}; }}
    QListWidget#cards::item {{ border: 2px solid transparent; padding: 0; }}
    QListWidget#cards::item:selected {{ background: {t.panel}; border-color: {t.thread}; }}
    QListWidget::item:hover:!selected {{ background: {t.window}; }}
    QSplitter::handle {{ background: transparent; }}
    QDialogButtonBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
    QCheckBox {{ spacing: 8px; min-height: 24px; }}
    QSlider {{ min-height: 24px; }}
    QSlider::groove:horizontal {{ height: 4px; background: {t.line}; border-radius: 2px; }}
    QSlider::sub-page:horizontal {{ background: {t.thread}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ width: 12px; margin: -6px 0; border-radius: 8px; background: {t.panel};
        border: 2px solid {t.thread}; }}
    QSlider::handle:horizontal:focus {{ border-color: {t.focus}; }}
    QProgressBar {{ background: {t.line}; border: none; border-radius: 3px; max-height: 6px; }}
    QProgressBar::chunk {{ background: {t.thread}; border-radius: 3px; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; }}
    QScrollBar::handle:vertical {{ background: {t.line}; border-radius: 4px; min-height: 24px; margin: 1px; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; }}
    QScrollBar::handle:horizontal {{ background: {t.line}; border-radius: 4px; min-width: 24px; margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    """
