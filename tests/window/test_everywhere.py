"""What has to hold on every page of every stage."""

import pytest
from PySide6.QtWidgets import QAbstractButton

from knitground.app.allowed import why_not
from knitground.core.project.document import Document
from window.finding import halves
from window.looking import controls, cut_off, pages, told


@pytest.fixture(params=["the demo", "nothing"])
def either(window, request):
    """The window on the demo, and on a project in which there is nothing yet."""
    if request.param == "the demo":
        return request.getfixturevalue("demo")
    window.session.open(Document())
    return window


def test_everything_has_a_name_and_what_cannot_be_used_says_why(either):
    for where in pages(either):
        for one in controls(either):
            named = one.accessibleName() or (isinstance(one, QAbstractButton) and one.text())
            assert named, f"{where}: {told(one)} in {told(one.parentWidget())} has no name"
            assert one.isEnabled() or why_not(one) in one.toolTip() != "", f"{where}: {told(one)} doesn't say why not"


def test_nothing_is_cut_off_and_the_halves_stay(either, qtbot):
    sizes = halves(either).sizes()
    for where in pages(either):
        qtbot.wait(1)
        assert cut_off(either) == [], (
            where,
            either.ground.tools._says.width(),
            either.ground.tools._says.sizeHint(),
            either.ground.width(),
        )
        assert halves(either).sizes() == sizes, where
