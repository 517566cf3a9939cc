"""Pages of a card, of which one shows."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QPushButton, QStackedLayout, QWidget

from knitground.app.widgets import button


class Pages(QWidget):
    """Some pages of which one shows, and a row of tabs that choose it."""

    turned = Signal(str)

    def __init__(self, pages: dict[str, QWidget]) -> None:
        super().__init__()
        self.tabs: dict[str, QPushButton] = {}
        self._stack = QStackedLayout(self)  # pages without a place in the window would show by themselves
        group = QButtonGroup(self)
        for place, (title, page) in enumerate(pages.items()):
            tab = button(title, lambda number=place, name=title: self._turn_to(number, name), name="tab")  # type: ignore[misc]
            tab.setChecked(place == 0)
            group.addButton(tab)
            self.tabs[title] = tab
            self._stack.addWidget(page)

    def _turn_to(self, number: int, title: str) -> None:
        self._stack.setCurrentIndex(number)
        self.turned.emit(title)

    def show_page(self, title: str) -> None:
        """Shows one of the pages."""
        self.tabs[title].click()
