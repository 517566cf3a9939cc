"""What can be told apart: words from what is behind them, and what has the focus from what has not."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage, QPixmap, QRegion
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QAbstractSpinBox, QApplication, QComboBox, QLabel, QLineEdit, QWidget

from knitground.app.keys.focus_ring import FocusRing
from knitground.app.theme import colours
from knitground.core.edits.cuts import set_parts
from knitground.core.sheet.cut import Cut
from making import png
from window.choosing import bring
from window.looking import controls, pages, shown, told, words

_WITH_WORDS = (QLabel, QAbstractButton, QComboBox, QAbstractSpinBox, QLineEdit)


@pytest.fixture(params=["light", "dark"])
def theme(qapp, request):
    colours.use(qapp, colours.LIGHT if request.param == "light" else colours.DARK)
    yield
    colours.use(qapp, colours.LIGHT)


@pytest.fixture
def dressed(theme, demo):
    """The window on the demo; it is dressed before it is put together, which is much quicker than after."""
    return demo


def picture(window: QWidget, widget: QWidget, inside: int = 0, scale: int = 1) -> np.ndarray:
    """What is drawn where a widget shows, without some of its border: (N,) numbers of 24 bits."""
    seen = widget.visibleRegion().boundingRect().translated(widget.mapTo(window, QPoint(0, 0)))
    seen = seen.adjusted(inside, inside, -inside, -inside)
    if seen.isEmpty():
        return np.zeros(0, dtype=np.uint32)
    pixels = QPixmap(seen.size() * scale)
    # Drawn larger, thin strokes keep their colour.
    pixels.setDevicePixelRatio(scale)
    window.render(pixels, QPoint(0, 0), QRegion(seen))
    image = pixels.toImage().convertToFormat(QImage.Format.Format_RGB32)
    return np.array(image.constBits()).view(np.uint32).ravel() & 0xFFFFFF


def light(colour: np.ndarray) -> np.ndarray:
    """The relative luminance of sRGB colours of 24 bits, by WCAG 2.2."""
    part = np.stack([colour >> shift & 255 for shift in (16, 8, 0)], axis=-1) / 255
    linear = np.where(part <= 0.03928, part / 12.92, ((part + 0.055) / 1.055) ** 2.4)
    return linear @ np.array([0.2126, 0.7152, 0.0722])


def contrast(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    return (np.maximum(one, other) + 0.05) / (np.minimum(one, other) + 0.05)


def test_words_stand_out_and_what_has_the_focus_can_be_told_from_what_has_not(dressed):
    read, reached = set(), set()
    for where in pages(dressed):
        for one in shown(dressed):
            # The style tells colours by kind and name, whatever the words.
            kind = type(one), one.objectName(), type(one.parentWidget()), is_on(one)
            if kind not in read and isinstance(one, _WITH_WORDS) and words(one).strip() and one.isEnabled():
                read.add(kind)
                most = stands_out(dressed, one)
                assert most >= 4.5, f"{where}: {told(one)} “{words(one)}” has a contrast of {most:.2f}"
        for one in controls(dressed):
            kind = type(one), one.objectName(), is_on(one)
            by_tab = one.isEnabled() and one.focusPolicy() & Qt.FocusPolicy.TabFocus
            if kind not in reached and by_tab and not one.visibleRegion().isEmpty():
                reached.add(kind)
                assert changed_by_focus(dressed, one) > 20, f"{where}: the focus of {told(one)} can't be seen"
    assert len(read) > 30
    assert len(reached) > 15


def is_on(one: QWidget) -> bool:
    return isinstance(one, QAbstractButton) and one.isChecked()


def stands_out(window: QWidget, one: QWidget) -> float:
    """The contrast of what stands out most on a widget with what is behind it."""
    drawn = picture(window, one, 3 if isinstance(one, QComboBox | QLineEdit | QAbstractSpinBox) else 0, 3)
    if not drawn.size:
        return 21.0
    found, counts = np.unique(drawn, return_counts=True)
    return contrast(light(found), light(found[counts.argmax()])).max()


def changed_by_focus(window: QWidget, one: QWidget) -> int:
    """How many pixels change by a contrast of 3 to 1 when the keyboard comes to a widget."""
    elsewhere = window.ground.view if one is not window.ground.view else window.panels["sheet"]
    elsewhere.setFocus()
    before = picture(window, one)
    # A press of Tab is what brings the ring to where the keyboard is.
    QTest.keyClick(elsewhere, Qt.Key.Key_Tab)
    one.setFocus()
    return int((contrast(light(before), light(picture(window, one))) >= 3).sum())


def test_tiles_that_are_chosen_stand_out_whatever_colour_they_have(theme, window, tmp_path):
    levels = np.stack(np.meshgrid(*[(0, 47, 93, 138, 196, 255)] * 3, indexing="ij"), axis=-1).reshape(12, 18, 3)
    sheet = np.full((12, 18, 16, 16, 4), 255, np.uint8)
    sheet[..., :3] = levels[:, :, None, None]
    path = tmp_path / "flat.png"
    path.write_bytes(png(sheet.swapaxes(1, 2).reshape(12 * 16, 18 * 16, 4)))
    bring(window, path)
    set_parts(window.session.document, "flat", [Cut("tiles", 16, 16)])
    panel = window.panels["sheet"]
    panel.show_work("Tiles")
    tiles = set(panel.view.tiles())
    assert len(tiles) == 12 * 18
    window.session.choose(selection=frozenset(tiles))
    image = panel.view.grab().toImage()
    for ref, rect in panel.view.rects_of(tiles, in_view=True).items():
        art = light(np.array([int.from_bytes(levels[ref.row, ref.column].astype(np.uint8).tobytes(), "big")]))
        middle = rect.center().toPoint().y()
        across = range(round(rect.left()) - 2, round(rect.left()) + 3)
        found = light(np.array([image.pixel(x, middle) & 0xFFFFFF for x in across]))
        assert contrast(found, art).max() >= 3, (ref, levels[ref.row, ref.column])


def test_the_ring_comes_with_the_keyboard_and_goes_with_the_mouse(demo):
    def ringed() -> list[QWidget]:
        return [ring.parentWidget() for ring in demo.findChildren(FocusRing) if ring.isVisible()]

    view = demo.ground.view
    view.setFocus()
    QTest.mouseClick(view, Qt.MouseButton.RightButton)
    assert ringed() == []
    QTest.keyClick(view, Qt.Key.Key_Tab)
    assert QApplication.focusWidget() is not view
    assert ringed() == [QApplication.focusWidget()]
    QTest.mouseClick(QApplication.focusWidget(), Qt.MouseButton.RightButton)
    assert ringed() == []
    view.setFocus()
    assert ringed() == []
