"""Opening dialogs so that they are freed when they are closed.

A dialog has its window for a parent, and would live as long: with its tables and models each of
them keeps megabytes.
"""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog


def ask(dialog: QDialog) -> bool:
    """Wait for a dialog; return whether it was accepted. What it holds can be read after."""
    try:
        return bool(dialog.exec())
    finally:
        dialog.deleteLater()


def put_up(dialog: QDialog) -> None:
    """Show a dialog and go on; it is freed when it is closed."""
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.finished.connect(lambda _: dialog.deleteLater())
    if dialog.windowModality() == Qt.WindowModality.NonModal:
        dialog.show()
    else:
        dialog.open()
