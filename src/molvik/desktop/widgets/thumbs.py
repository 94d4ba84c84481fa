"""Small pictures of the photos of what is in hand."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QBuffer, QByteArray, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QImageReader, QPixmap, QResizeEvent, QTransform
from PySide6.QtWidgets import QGridLayout, QToolButton, QWidget

from molvik.desktop.widgets.small import column, label
from molvik.files.photos import is_kept_picture
from molvik.model.photos import Photo
from molvik.wording import counted

SIDE = QSize(84, 62)
MOST = 6
ACROSS = 3


class Thumbs(QWidget):
    """chosen(code): a photo is to be shown large."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.read: Callable[[Photo], bytes | None] = lambda photo: None
        self._kept: dict[tuple[str, int], QPixmap] = {}
        self._across = 0
        self._grid = QGridLayout()
        self._grid.setSpacing(4)
        self._codes: list[str] = []
        self.pictures: list[QToolButton] = []
        for index in range(MOST):
            tool_button = QToolButton()
            tool_button.setIconSize(SIDE)
            tool_button.hide()
            tool_button.clicked.connect(partial(self._choose, index))
            self.pictures.append(tool_button)
        self._lay(ACROSS)
        self.more = label("", "faint")
        self.setLayout(column(self._grid, self.more, spacing=4))

    def _lay(self, across: int) -> None:
        """Put so many beside each other."""
        if across == self._across:
            return
        self._grid.setColumnStretch(self._across, 0)
        self._across = across
        for index, tool_button in enumerate(self.pictures):
            place = divmod(index, across)
            self._grid.addWidget(tool_button, *place, Qt.AlignmentFlag.AlignLeft)
        self._grid.setColumnStretch(across, 1)

    def minimumSizeHint(self) -> QSize:
        """Return room for one: the panel keeps its width, and they go below each other."""
        return QSize(SIDE.width() + 16, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Put as many beside each other as there is room for."""
        super().resizeEvent(event)
        each = SIDE.width() + 16 + self._grid.horizontalSpacing()
        self._lay(max(1, min(ACROSS, self.width() // each)))

    def show_photos(self, photos: tuple[Photo, ...]) -> None:
        """Show the first photos, and how many more there are."""
        self._codes = [photo.code for photo in photos]
        self.setVisible(bool(photos))
        for index, tool_button in enumerate(self.pictures):
            tool_button.setVisible(index < len(photos))
            if index >= len(photos):
                continue
            photo = photos[index]
            tool_button.setIcon(QIcon(self._small(photo)))
            marks = f", {counted(len(photo.marks), 'mark')}" if photo.marks else ""
            tool_button.setToolTip(
                f"{photo.code}: {photo.text or 'no caption'}{marks}. Show it large."
            )
            tool_button.setAccessibleName(f"Photo {photo.code} {photo.text}")
        left = len(photos) - MOST
        self.more.setVisible(left > 0)
        self.more.setText(f"and {left} more: go through them with Page down")

    def _choose(self, index: int) -> None:
        self.chosen.emit(self._codes[index])

    def forget(self) -> None:
        """Forget the pictures: another job is in the window."""
        self._kept.clear()

    def _small(self, photo: Photo) -> QPixmap:
        key = photo.file, photo.turned
        if key not in self._kept:
            kept = self.read(photo) or b""
            data = QByteArray(kept if is_kept_picture(kept) else b"")  # the buffer does not keep it
            buffer = QBuffer(data)
            reader = QImageReader(buffer, QByteArray(b"jpg"))
            # Scaled while it is decoded, which is much quicker than after.
            reader.setScaledSize(reader.size().scaled(SIDE, Qt.AspectRatioMode.KeepAspectRatio))
            turned = QTransform().rotate(90.0 * photo.turned)
            picture = QPixmap.fromImage(reader.read().transformed(turned))
            if picture.isNull():
                picture = QPixmap(SIDE)
                picture.fill(Qt.GlobalColor.lightGray)
            self._kept[key] = picture
        return self._kept[key]
