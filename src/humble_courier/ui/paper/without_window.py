"""Paper where there is no window: fonts want an application, and a command has none."""

import os
from collections.abc import Iterator
from contextlib import contextmanager

from PyQt6.QtGui import QGuiApplication

from humble_courier.ui.theme import load_fonts


@contextmanager
def without_window() -> Iterator[None]:
    """An application that draws nowhere, for a while."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    application = QGuiApplication.instance() or QGuiApplication(["humble-courier"])
    load_fonts()
    yield
    del application
