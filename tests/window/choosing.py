"""Choosing tiles on the sheet stage, and layers and tools on the ground, as several tests do."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from knitground.app.jobs import wait_for_jobs
from knitground.core.sheet.cut import Rect


def click(working, hand, column: int, row: int, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    view = working.panels["sheet"].view
    hand.click(view, view.tile_on_widget(column, row).center(), modifier=modifier)


def plane(window, layer: str, name: str) -> np.ndarray:
    return np.asarray(window.session.document.state.planes["ground"][layer][name])


def choose(window, layer: str, tool: str = "draw", **more) -> None:
    window.session.choose(layer_id=layer, **more)
    window.ground.choose_tool(tool)


def bring(window, *paths) -> None:
    """Adds sheets, and waits until all are read."""
    window.keeper.adder.add_sheet_files(paths)
    wait_until_read(len(paths))


def wait_until_read(count: int) -> None:
    """Waits until so many files are read, one after the other, and taken in."""
    for _ in range(count):
        wait_for_jobs()
        QApplication.processEvents()


def draw_part(window, hand, qtbot, region: Rect) -> None:
    """Draws a part round what lies in a rectangle of the picture, and waits until it is cut."""
    panel = window.panels["sheet"]
    QTest.mouseClick(panel.cut_card.add, Qt.MouseButton.LeftButton)
    corners = (region.x, region.y), (region.x + region.width, region.y + region.height)
    hand.drag(panel.view, *(panel.view.to_widget(x, y) for x, y in corners))
    qtbot.waitUntil(lambda: len(window.session.document.project.sheets[0].cuts) == 2, timeout=5000)
