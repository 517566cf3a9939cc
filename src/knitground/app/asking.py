"""Questions that have to be answered before anything else goes on."""

from PySide6.QtWidgets import QMessageBox, QWidget


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
