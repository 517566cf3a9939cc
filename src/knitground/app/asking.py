"""Questions that have to be answered before anything else goes on, and dialogs that go when they are closed."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QMessageBox, QWidget


def answered(dialog: QDialog) -> bool:
    """Shows a dialog until it is closed; whether what it says is to be done.

    It can be read until the next event. Then it goes, and is told nothing of what it had begun to look for.
    """
    accepted = bool(dialog.exec())
    dialog.deleteLater()
    return accepted


def show_once(dialog: QDialog) -> None:
    """Shows a dialog over its window, and lets go of it as it is closed."""
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.open()


def ask(parent: QWidget, title: str, sentence: str, *answers: str) -> str:
    """Asks in a box, and returns the answer.

    Parameters
    ----------
    parent : QWidget
    title : str
    sentence : str
        Says what is at stake; the answers say what becomes of it.
    answers : str
        On the buttons. Return gives the first one, Escape the last, which changes nothing.
    """
    box = QMessageBox(QMessageBox.Icon.NoIcon, title, sentence, parent=parent)
    roles = QMessageBox.ButtonRole
    kinds = [roles.AcceptRole, *[roles.DestructiveRole] * (len(answers) - 2), roles.RejectRole]
    buttons = [box.addButton(answer, kind) for answer, kind in zip(answers, kinds, strict=True)]
    box.setDefaultButton(buttons[0])
    box.setEscapeButton(buttons[-1])
    box.exec()
    given = box.clickedButton()
    box.deleteLater()
    return next((answer for answer, button in zip(answers, buttons, strict=True) if button is given), answers[-1])
