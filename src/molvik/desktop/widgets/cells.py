"""The cells of a table: a wire painted before its colour's name, and a plain field to edit in."""

from collections.abc import Sequence

from PySide6.QtCore import (
    QAbstractItemModel,
    QPersistentModelIndex,
    QRect,
    QRectF,
    QSize,
    Qt,
    QTimer,
)
from PySide6.QtGui import QColor, QPainter, QPalette
from PySide6.QtWidgets import (
    QCompleter,
    QLineEdit,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.paint import draw_wire
from molvik.desktop.widgets.things import CHOICES_ROLE, WIRE_ROLE, Index
from molvik.model.parts import Colour

LIST_WIDTH = 420
"""A list of choices is at least so wide: they say what else a thing is called."""


class Cells(QStyledItemDelegate):
    """Draws the wire before a colour's text and edits in a plain field.

    typed: what was typed and where. The table takes it once the editor is closed: an edit changes
    the job, and the rows with it, under the editor's feet.
    """

    typed: tuple[QPersistentModelIndex, str] | None = None

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Paint a cell, its wire before the text."""
        super().paint(painter, option, index)
        wire = index.data(WIRE_ROLE)
        if not isinstance(wire, Colour):
            return
        rect: QRect = option.rect
        draw_wire(painter, QRectF(rect.left() + 6, rect.center().y() - 4.5, 34, 10), wire)
        painter.setFont(font())
        painter.setPen(colour("ink"))
        room = rect.adjusted(46, 0, -2, 0)
        text = painter.fontMetrics().elidedText(
            str(index.data()), Qt.TextElideMode.ElideRight, room.width()
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)

    def initStyleOption(self, option: QStyleOptionViewItem, index: Index) -> None:
        """Let a selected row keep the colours of its words."""
        super().initStyleOption(option, index)
        # A selected row keeps the colours of its words: a failed test stays red.
        tint = index.data(Qt.ItemDataRole.ForegroundRole)
        if isinstance(tint, QColor):
            option.palette.setColor(QPalette.ColorRole.HighlightedText, tint)
        if isinstance(index.data(WIRE_ROLE), Colour):
            option.text = ""  # painted above, after the wire

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        """Return a plain field, named by its column."""
        editor = QLineEdit(parent)
        editor.setFrame(False)
        editor.setAccessibleName(
            str(index.model().headerData(index.column(), Qt.Orientation.Horizontal))
        )
        choices = index.data(CHOICES_ROLE)
        if choices:
            self._offer(editor, choices)
        return editor

    def _offer(self, editor: QLineEdit, choices: Sequence[str]) -> None:
        """Offer a list under a field: all of it at once, then what has in it what is typed."""
        completer = QCompleter(list(choices), editor)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setMaxVisibleItems(20)
        editor.setCompleter(completer)
        popup = completer.popup()
        assert popup is not None  # a completer has one as soon as it is asked for
        popup.setMinimumWidth(LIST_WIDTH)

        def finish() -> None:
            self.commitData.emit(editor)
            self.closeEditor.emit(editor, self.EndEditHint.SubmitModelCache)

        def enter() -> None:
            # Enter reaches the field past the delegate while its list is open.
            if popup.isVisible():
                popup.hide()
                finish()

        def open_list() -> None:
            if editor.isVisible() and not editor.text():
                completer.setCompletionPrefix("")
                completer.complete()

        completer.activated.connect(lambda _: QTimer.singleShot(0, editor, finish))
        editor.returnPressed.connect(enter)
        QTimer.singleShot(0, editor, open_list)

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        """Put what the cell holds into the field, all of it chosen; not over what is being typed,
        when the rest of the row is computed meanwhile.
        """
        assert isinstance(editor, QLineEdit)
        if editor.isModified():
            return
        editor.setText(str(index.data(Qt.ItemDataRole.EditRole)))
        editor.selectAll()

    def setModelData(self, editor: QWidget, model: QAbstractItemModel, index: Index) -> None:
        """Keep what was typed until the editor is closed."""
        assert isinstance(editor, QLineEdit)
        self.typed = (QPersistentModelIndex(index), editor.text())

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """Return a height that is hit easily."""
        return QSize(super().sizeHint(option, index).width(), 28)
