"""The page of a stage that is not built yet: one line on what it will do."""

from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import StagePage
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import label


class AheadPage(StagePage):
    """Says what the stage will do."""

    def __init__(self, store: Store, hand: Hand, name: str, will_do: str) -> None:
        super().__init__(store, hand, name)
        self.work_column.addWidget(label("Nothing to work through here yet.", "faint", wrap=True))
        self.work_column.addStretch(1)
        self.about.setText("not built yet")
        self.middle.addWidget(self.title)
        self.middle.addWidget(label(will_do, wrap=True))
        self.middle.addStretch(1)

    def refresh(self) -> None:
        """Nothing changes here."""
