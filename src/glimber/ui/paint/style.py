"""The tokens of ``look`` as Qt wants them: palette and style sheet."""

from __future__ import annotations

from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPalette
from PySide6.QtWidgets import QApplication

from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import BODY, FAMILY, HEADING, LARGE, PANEL_RADIUS, SMALL, THEMES, TITLE, Theme


class Look:
    """The theme in use; every painter asks here."""

    theme: Theme = THEMES["dark"]


def theme() -> Theme:
    """Return the theme in use."""
    return Look.theme


def colour(value: str) -> QColor:
    return QColor(value)


def fill(painter: QPainter, box: QRect | QRectF, ink: QColor) -> None:
    """Fill a box. With a colour ``fillRect`` (and a brush that is made of one) makes PySide load every gradient there is."""
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    painter.drawRect(box)
    painter.restore()


def theme_of(app: QApplication, name: str) -> str:
    """Return a theme by its name; ``desktop``: the day desk where the desktop is light."""
    if name != "desktop":
        return name
    return "day" if app.styleHints().colorScheme() == Qt.ColorScheme.Light else "dark"


def apply_theme(app: QApplication, name: str) -> None:
    """Dress the whole application."""
    name = theme_of(app, name)
    Look.theme = chosen = THEMES.get(name, THEMES["dark"])
    palette = QPalette()
    for role, value in (
        (QPalette.ColorRole.Window, chosen.desk),
        (QPalette.ColorRole.Base, chosen.panel),
        (QPalette.ColorRole.AlternateBase, chosen.raised),
        (QPalette.ColorRole.Button, chosen.panel),
        (QPalette.ColorRole.WindowText, chosen.text),
        (QPalette.ColorRole.Text, chosen.text),
        (QPalette.ColorRole.ButtonText, chosen.text),
        (QPalette.ColorRole.PlaceholderText, chosen.faint),
        (QPalette.ColorRole.Highlight, chosen.light),
        (QPalette.ColorRole.HighlightedText, chosen.on_lamp),
        (QPalette.ColorRole.ToolTipBase, chosen.raised),
        (QPalette.ColorRole.ToolTipText, chosen.text),
    ):
        palette.setColor(role, QColor(value))
    app.setPalette(palette)
    app.setFont(font(BODY))
    app.setStyleSheet(_sheet(chosen))


def _sheet(t: Theme) -> str:
    return f"""
    QWidget {{ color: {t.text}; font-family: "{FAMILY}"; font-size: {BODY}px; }}
    QMainWindow, QWidget#desk {{ background: {t.desk}; }}
    QWidget#topline {{ background: {t.desk}; border-bottom: 1px solid {t.line}; }}
    QWidget#bottomline {{ background: {t.desk}; border-top: 1px solid {t.line}; }}
    QFrame#panel {{ background: {t.panel}; border-radius: {PANEL_RADIUS}px; }}
    QFrame#side {{ background: {t.desk}; border-right: 1px solid {t.line}; }}
    QFrame#notice {{ background: {t.raised}; border-top: 2px solid {t.slip}; }}
    QLabel {{ background: transparent; }}
    QLabel[role="quiet"] {{ color: {t.quiet}; }}
    QLabel[role="lit"] {{ color: {t.light}; }}
    QLabel[role="faint"] {{ color: {t.faint}; font-size: {SMALL}px; }}
    QLabel[role="title"] {{ font-size: {TITLE}px; font-weight: 600; }}
    QLabel[role="heading"] {{ font-size: {HEADING}px; font-weight: 500; }}
    QLabel[role="key"] {{ color: {t.text}; font-weight: 600; }}
    QLabel[role="sentence"] {{ font-size: {TITLE}px; }}
    QLabel[role="large"] {{ font-size: {LARGE}px; }}
    QLineEdit {{ background: {t.panel}; border: 1px solid {t.line}; border-radius: 6px; padding: 0 10px; min-height: 28px;
                 selection-background-color: {t.light}; selection-color: {t.on_lamp}; }}
    QLineEdit:focus {{ border: 1px solid {t.light}; }}
    QPlainTextEdit {{ background: {t.panel}; border: 1px solid {t.line}; border-radius: 6px; padding: 2px 6px;
                 selection-background-color: {t.light}; selection-color: {t.on_lamp}; }}
    QPlainTextEdit:focus {{ border: 1px solid {t.light}; }}
    QComboBox QLineEdit, QComboBox QLineEdit:focus {{ background: transparent; border: none; padding: 0; min-height: 0; }}
    QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {t.quiet}; border-radius: 3px; }}
    QCheckBox::indicator:checked {{ background: {t.light}; border: 1px solid {t.light}; }}
    QCheckBox:focus {{ color: {t.light}; }}
    QPushButton {{ background: transparent; border: 1px solid {t.line}; border-radius: 6px; padding: 0 14px;
                   min-height: 32px; }}
    QPushButton[narrow="true"] {{ padding: 0 9px; }}
    QPushButton[narrow="true"]:focus {{ padding: 0 8px; }}
    QPushButton[role="part"] {{ border: none; border-bottom: 2px solid {t.lamp[3]}; border-radius: 0; padding: 0 1px;
                   color: {t.light}; font-size: {TITLE}px; font-weight: 600; min-height: 0; }}
    QPushButton[role="part"]:focus {{ border: none; border-bottom: 2px solid {t.text}; padding: 0 1px; }}
    QPushButton[role="line"] {{ border: none; text-align: left; padding: 0 4px; }}
    QPushButton:hover {{ background: {t.raised}; }}
    QPushButton:focus {{ border: 2px solid {t.light}; padding: 0 13px; }}
    QPushButton[role="chosen"] {{ background: {t.light}; color: {t.on_lamp}; border: 1px solid {t.light}; font-weight: 600; }}
    QPushButton[role="chosen"]:focus {{ border: 2px solid {t.text}; padding: 0 13px; }}
    QPushButton:disabled, QPushButton[role="chosen"]:disabled {{ color: {t.faint}; background: transparent;
                   border: 1px solid {t.line}; }}
    QListView {{ background: transparent; border: none; outline: none; }}
    QListWidget, QTableWidget, QListView[role="list"] {{ background: transparent; border: 1px solid transparent;
        border-radius: 6px; outline: none; }}
    QListWidget:focus, QTableWidget:focus, QListView[role="list"]:focus {{ border: 1px solid {t.light}; }}
    QListWidget::item, QListView[role="list"]::item {{ padding: 6px 8px; border-radius: 6px; }}
    QListWidget::item:selected, QListView[role="list"]::item:selected, QTableWidget::item:selected {{
        background: {t.raised}; color: {t.text}; }}
    QTableView {{ background: transparent; border: 1px solid transparent; border-radius: 6px; outline: none; }}
    QTableView:focus {{ border: 1px solid {t.light}; }}
    QTableView::item:selected {{ background: {t.raised}; color: {t.text}; }}
    QTableView::indicator {{ width: 13px; height: 13px; border: 1px solid {t.quiet}; border-radius: 3px; }}
    QTableView::indicator:checked {{ background: {t.light}; border: 1px solid {t.light}; }}
    QTreeView {{ background: transparent; border: 1px solid transparent; border-radius: 6px; outline: none;
        show-decoration-selected: 0; }}
    QTreeView:focus {{ border: 1px solid {t.light}; }}
    QTreeView::branch, QTreeView::branch:selected {{ background: transparent; }}
    QTreeView::item:selected {{ background: transparent; color: {t.text}; }}
    QHeaderView::section {{ background: transparent; color: {t.quiet}; border: none; padding: 4px 6px; }}
    QComboBox {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 6px; padding: 0 10px; min-height: 28px; }}
    QComboBox::drop-down {{ border: none; }}
    QComboBox:focus {{ border: 1px solid {t.light}; }}
    QComboBox QAbstractItemView {{ background: {t.raised}; color: {t.text}; selection-background-color: {t.light};
                   selection-color: {t.on_lamp}; }}
    QScrollArea {{ background: transparent; border: none; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 2px; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 2px; }}
    QScrollBar::handle {{ background: {t.line}; border-radius: 3px; min-height: 32px; min-width: 32px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QMenu {{ background: {t.raised}; color: {t.text}; border: 1px solid {t.line}; padding: 6px 0; }}
    QMenu::item {{ padding: 3px 28px 3px 16px; }}
    QMenu::item:selected {{ background: {t.light}; color: {t.on_lamp}; }}
    QMenu::separator {{ height: 1px; background: {t.line}; margin: 5px 0; }}
    QToolTip {{ background: {t.raised}; color: {t.text}; border: 1px solid {t.line}; padding: 4px; }}
    """
