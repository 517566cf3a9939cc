"""Choosing tiles on the sheet stage, as several tests do."""

from PySide6.QtCore import Qt


def click(working, hand, column: int, row: int, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    view = working.panels["sheet"].view
    hand.click(view, view.tile_on_widget(column, row).center(), modifier=modifier)
