"""What every stage has: a headline that answers its question, a line of reason, and room below."""

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from humble_courier.ui.parts import label


class Stage(QWidget):
    """Base of the stages."""

    def __init__(self) -> None:
        super().__init__()
        self.headline, self.reason = label("", "headline", wrap=True), label("", "quiet", wrap=True)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(20, 14, 20, 12)
        self.column.setSpacing(6)
        self.column.addWidget(self.headline)
        self.column.addWidget(self.reason)

    def say(self, headline: str, reason: str) -> None:
        """Set headline and reason."""
        self.headline.setText(headline)
        self.reason.setText(reason)
