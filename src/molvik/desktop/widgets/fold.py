"""A part of the panel that is folded away until it is wanted."""

from PySide6.QtWidgets import QWidget

from molvik.desktop.widgets.small import button, column, row


class Fold(QWidget):
    """A heading that opens and closes what lies under it."""

    def __init__(self, title: str, inside: QWidget) -> None:
        super().__init__()
        self._title, self._inside = title, inside
        self.heading = button("", "Open or close", self._turn, "quiet")
        self.heading.setProperty("role", "fold")
        self.setLayout(column(row(self.heading, 1), inside, spacing=2))
        inside.hide()
        self.show_title(title)

    def show_title(self, title: str) -> None:
        """Show another heading."""
        self._title = title
        self.heading.setText(f"{'▾' if self.is_open else '▸'} {title}")
        self.heading.setAccessibleName(f"{title}, {'open' if self.is_open else 'closed'}")

    @property
    def is_open(self) -> bool:
        """Whether what lies under it is in view."""
        return not self._inside.isHidden()

    def unfold(self) -> None:
        """Open it, and go to its first field."""
        if not self.is_open:
            self._turn()
        self._inside.setFocus()

    def _turn(self) -> None:
        self._inside.setVisible(not self.is_open)
        self.show_title(self._title)
