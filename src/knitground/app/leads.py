"""Buttons beside what is said: the commands that it speaks of, and the things that it names."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QPushButton, QWidget

from knitground.app.session import STAGES, Session
from knitground.app.widgets import button, clear, row
from knitground.core.project.named import Named, named

_MOST = 3


class Leads(QWidget):
    """A row of buttons, each of which leads somewhere; none where one is there already."""

    followed = Signal()
    """All that was offered is done."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._buttons = row(spacing=4)
        self.setLayout(self._buttons)
        self._actions: Callable[[str], QAction] | None = None
        self._shown: list[tuple[QAction, QPushButton]] = []

    def lead_by(self, actions: Callable[[str], QAction]) -> None:
        """Lets it lead to commands, given how these are found by their names."""
        self._actions = actions

    @property
    def shown(self) -> bool:
        """Whether it leads anywhere."""
        return bool(self._buttons.count())

    def clear(self) -> None:
        """Leads nowhere."""
        for action, _ in self._shown:
            action.changed.disconnect(self._look_again)
        self._shown = []
        clear(self._buttons)

    def show_named(self, sentence: str) -> bool:
        """Leads to what a sentence names, else to the stages that it speaks of; whether there is anything."""
        self.clear()
        session, found = self._session, list[Named]()
        for alike in named(session.document.project, sentence, session.choices.ground_id):
            if not any(self._is_here(one) for one in alike):
                found += alike
        for one in found[:_MOST]:
            title = f"{one.what.capitalize()} “{one.name if len(one.name) <= 24 else one.name[:22] + '…'}”"
            self._add(button(title, lambda to=one: self._go(to), f"Go to the {one.what} “{one.name}”"))  # type: ignore[misc]
        if found:
            return True
        stages = [stage for stage in STAGES if f"the {stage.capitalize()} stage" in sentence]
        self.show_commands(tuple(f"Stage {stage.capitalize()}" for stage in stages if stage != session.choices.stage))
        return self.shown

    def show_commands(self, names: tuple[str, ...]) -> None:
        """Leads to commands, those that can be done now."""
        self.clear()
        for action in [self._actions(name) for name in names] if self._actions is not None else []:
            if action.isEnabled():
                keys = action.shortcut().toString()
                title = action.text().removeprefix("Tool: ")
                lead = button(title, lambda to=action: self._follow(to), f"{title} ({keys})" if keys else title)  # type: ignore[misc]
                self._add(lead)
                self._shown.append((action, lead))
                action.changed.connect(self._look_again)

    def offer(self, title: str, act: Callable[[], None]) -> None:
        """Leads to something that is no command."""
        self.clear()

        def follow() -> None:
            self.clear()
            self.followed.emit()
            act()

        self._add(button(title, follow, title))

    def _follow(self, action: QAction) -> None:
        """Does what is led to, which is offered no longer; what only asks first may be left, and stays."""
        if not action.text().endswith("…"):
            self._take_back(action)
            if not self.shown:
                self.followed.emit()
        action.trigger()

    def _take_back(self, action: QAction) -> None:
        action.changed.disconnect(self._look_again)
        for lead in [lead for shown, lead in self._shown if shown is action]:
            self._buttons.removeWidget(lead)
            lead.hide()
            lead.deleteLater()  # not at once: it is being clicked
        self._shown = [one for one in self._shown if one[0] is not action]

    def _look_again(self) -> None:
        """Hides what can't be done any more, as it was done elsewhere."""
        for action, lead in self._shown:
            lead.setVisible(action.isEnabled())

    def _add(self, lead: QPushButton) -> None:
        lead.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # a click leaves the keyboard where it is
        self._buttons.addWidget(lead)

    def _is_here(self, one: Named) -> bool:
        """Whether something is at hand, in the stage where one works on it."""
        chosen = self._session.choices
        return chosen.stage == one.stage and all(getattr(chosen, name) == id_ for name, id_ in one.at_hand.items())

    def _go(self, to: Named) -> None:
        self.clear()
        go_to(self._session, to)


def go_to(session: Session, to: Named) -> None:
    """Takes something in hand, in the stage where one works on it."""
    session.set_stage(to.stage)
    session.choose(**to.at_hand)
