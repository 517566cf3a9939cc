"""What can't be used now says why, where one asks for it: in its tooltip, and to those who can't see it.

A part of the window is allowed or not in one place. What it holds goes with it, and gives the same reason.
"""

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QWidget

_WHY_NOT, _TIP, _TOLD = "why_not", "own_tip", "told_tip"
NO_SHEET = "Add a sprite sheet first."
NO_TILE = "Choose a tile on the sheet first."
NO_GROUND = "Make a ground first."
NO_STEPS = "Add a step first."
OF_IMAGES = "The images of a collection are taken as they are."


def allow(part: QWidget, why_not: str) -> None:
    """Lets a part of the window be used, or not, and then its tooltip says why.

    Parameters
    ----------
    part : QWidget
    why_not : str
        A sentence that says what to do first; nothing if it can be used.
    """
    forbidden = part.property(_WHY_NOT) or part.testAttribute(Qt.WidgetAttribute.WA_ForceDisabled)
    if not why_not and not forbidden:
        return  # as nearly always, and asked whenever anything is chosen
    part.setProperty(_WHY_NOT, why_not)
    part.setEnabled(not why_not)
    for one in (part, *part.findChildren(QWidget)):
        _tell(one)


def why_not(part: QWidget) -> str:
    """Why a part of the window can't be used; nothing if it can, or if nobody says so."""
    at: QWidget | None = part
    while at is not None:
        if reason := at.property(_WHY_NOT):
            return str(reason)
        at = at.parentWidget()
    return ""


def allow_entry(action: QAction, reason: str) -> QAction:
    """Lets an entry of a menu be chosen, or not, and then its tooltip says why."""
    action.setEnabled(not reason)
    action.setToolTip(reason)
    return action


def a_menu(parent: QWidget) -> QMenu:
    """A menu whose entries say why they can't be chosen."""
    made = QMenu(parent)
    made.setToolTipsVisible(True)
    return made


def _tell(part: QWidget) -> None:
    """Writes the tooltip of a part anew: what it is, and why it can't be used."""
    now, told = part.toolTip(), part.property(_TOLD)
    # What somebody wrote there since is what it is now.
    tip = part.property(_TIP) if told is not None and now == told else now
    reason = why_not(part)
    said = "\n".join(filter(None, (tip, reason)))
    part.setProperty(_TIP, tip)
    part.setProperty(_TOLD, said)
    part.setAccessibleDescription(reason)
    if said != now:
        part.setToolTip(said)
