"""Buttons that choose one of several: a click on the one that is chosen leaves it so."""

from PySide6.QtWidgets import QAbstractButton, QPushButton, QWidget


class OneOf(QAbstractButton):
    """One of several to choose from, drawn by its heirs."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setCheckable(True)

    def nextCheckState(self) -> None:
        self.setChecked(not _is_let_go(self))


class Tab(QPushButton):
    """A word that one of several things is chosen by."""

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.setCheckable(True)

    def nextCheckState(self) -> None:
        self.setChecked(not _is_let_go(self))


def _is_let_go(button: QAbstractButton) -> bool:
    """Whether another button of the group was chosen: the group asks the one before for its next state then."""
    group = button.group()
    return button.isChecked() and group is not None and group.checkedButton() is not button
