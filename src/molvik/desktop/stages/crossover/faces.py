"""Where a lead comes out, and where it goes in: two faces side by side."""

from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from molvik.analysis import Analysis
from molvik.desktop.widgets.face import FaceView
from molvik.desktop.widgets.small import column, label
from molvik.model.parts import End


class TwoFaces(QFrame):
    """The plug a lead is taken out of, and the one it is pushed into, both at the wire side."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.titles = label("", "head"), label("", "head")
        self.views = FaceView(largest=30), FaceView(largest=30)
        inner = QHBoxLayout(self)
        inner.setContentsMargins(10, 6, 10, 4)
        for title, face in zip(self.titles, self.views, strict=True):
            face.face = "wire side"
            held = QWidget()
            inside = column(title, face, spacing=2)
            inside.setStretch(1, 1)
            held.setLayout(inside)
            inner.addWidget(held, 1)
        self.setFixedHeight(206)

    def show_places(
        self, analysis: Analysis, places: tuple[str, str], otherwise: tuple[str, str]
    ) -> None:
        """Show the cavities a lead leaves and enters. otherwise: the plugs to show without any."""
        said = ("TAKE OUT OF", "PUSH INTO")
        for face, title, place, code, words in zip(
            self.views, self.titles, places, otherwise, said, strict=True
        ):
            where = End.of(place)
            face.show_connector(analysis.job.connector(where.at or code), analysis)
            face.choose(where.cavity)
            title.setText(f"{words} {place}" if place else f"{words} …")
        wire_side = self.views[1].face == "wire side"
        self.titles[0].setToolTip("seen at the wire side" if wire_side else "")
