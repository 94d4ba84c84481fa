"""The cells of a table: a wire painted before its colour's name, and a plain field to edit in."""

from PySide6.QtCore import QAbstractItemModel, QPersistentModelIndex, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPalette
from PySide6.QtWidgets import QLineEdit, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.paint import draw_wire
from molvik.desktop.widgets.things import WIRE_ROLE, Index
from molvik.model.parts import Colour


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
        return editor

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        """Put what the cell holds into the field, all of it chosen."""
        assert isinstance(editor, QLineEdit)
        editor.setText(str(index.data(Qt.ItemDataRole.EditRole)))
        editor.selectAll()

    def setModelData(self, editor: QWidget, model: QAbstractItemModel, index: Index) -> None:
        """Keep what was typed until the editor is closed."""
        assert isinstance(editor, QLineEdit)
        self.typed = (QPersistentModelIndex(index), editor.text())

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """Return a height that is hit easily."""
        return QSize(super().sizeHint(option, index).width(), 28)
