"""Starting the window: show it first, then open the records."""

import ctypes
import os
import signal
import sys
from pathlib import Path

from PyQt6.QtCore import QMessageLogContext, Qt, QTimer, QtMsgType, qInstallMessageHandler
from PyQt6.QtWidgets import QApplication

from humble_courier.app.folders import data_folder
from humble_courier.app.log_file import begin_log
from humble_courier.app.preferences import KeptPreferences, preferences_file
from humble_courier.errors import BadInput, CourierError, MachineRefused, Refusal
from humble_courier.ui.day_copy import DayCopy
from humble_courier.ui.defects import Defects
from humble_courier.ui.first_walk import walk_once
from humble_courier.ui.one_instance import OneInstance, hand_over
from humble_courier.ui.team_step import TeamStep
from humble_courier.ui.theme import Theme, load_fonts, prefers_dark
from humble_courier.ui.window import Window

NAME = "Humble Courier"


def _without_offscreen_chatter(kind: QtMsgType, context: QMessageLogContext, text: str | None) -> None:
    """Qt's offscreen plugin says at each resize that it has no screen; the rest goes to standard error as ever."""
    if text and "propagateSizeHints" not in text:
        sys.stderr.write(f"{text}\n")


def application() -> QApplication:
    """The application with its fonts."""
    if os.environ.get("QT_QPA_PLATFORM") == "offscreen":
        qInstallMessageHandler(_without_offscreen_chatter)
    found = QApplication.instance()
    app = found if isinstance(found, QApplication) else QApplication([sys.argv[0]])
    if app.applicationName() != NAME:  # once: a style that is set again is worked out anew for every widget there is
        app.setApplicationName(NAME)
        app.setStyle("Fusion")
        load_fonts()
    return app


def refuse_without_display() -> None:
    """Qt ends the process where it cannot reach a display. Raises MachineRefused before it can."""
    chosen = os.environ.get("QT_QPA_PLATFORM", "")
    if chosen not in ("", "xcb") or os.environ.get("WAYLAND_DISPLAY"):
        return
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
    except OSError:
        return  # without the library nothing is known; Qt says what it misses
    xcb.xcb_connect.restype = ctypes.c_void_p
    connection = ctypes.c_void_p(xcb.xcb_connect(None, None))
    broken = xcb.xcb_connection_has_error(connection)
    xcb.xcb_disconnect(connection)
    if broken:
        raise MachineRefused(
            "there is no display to open a window on",
            "Start it on a desktop, or over ssh with -X; the commands need no display: humble-courier --help",
            Refusal.NO_DISPLAY,
        )


def run(data: Path | None, demo: bool, fresh: bool, file: Path | None = None) -> int:
    """Open the window and stay until it is closed; returns the exit code. Raises MachineRefused without a display."""
    refuse_without_display()
    app = application()
    from humble_courier.app.trade import open_catalog

    begin_log(verbose=False)
    preferences = KeptPreferences(preferences_file())
    if not demo and not preferences.problem and hand_over(data_folder(data), file):
        return 0  # the window that is there has it now
    now = preferences.now
    window = Window(open_catalog(), Theme.preferred(now.text, now.colours, prefers_dark()), preferences)
    Defects(window).watch()
    window.show()
    folder = _folder(window, data, demo)
    first = OneInstance(folder) if folder is not None and not demo else None
    if first is not None:
        first.wanted.connect(lambda wanted: _seen(window, wanted))
    if folder is not None:
        QTimer.singleShot(0, lambda: show_records(window, folder, demo, fresh, file))
    for one in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(one, lambda *_: window.close())  # which stops everything first
    wake = QTimer()
    wake.timeout.connect(lambda: None)  # lets Python see Ctrl+C between two events of the window
    wake.start(200)
    copy = DayCopy(folder) if folder is not None and not demo else None
    if copy is not None:
        copy.refused.connect(window.work.complain)
    team = TeamStep(folder, lambda: window.work.preferences.records) if folder is not None and not demo else None
    if team is not None:
        team.told.connect(window.work.in_step)
        window.work.step_wanted.connect(team.begin)
    code = app.exec()
    if first is not None:
        first.close()
    for beside in (copy, team):
        if beside is not None:
            beside.rest()
    return code


def _seen(window: Window, file: Path | None) -> None:
    """A second start: the window comes to the front, with the file that it brought."""
    window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
    window.raise_()
    window.activateWindow()
    if file is not None and window.work.records is not None:
        window.work.take_file(file)


def _folder(window: Window, data: Path | None, demo: bool) -> Path | None:
    """Where the records are; None where the preferences cannot be read, and the window says so."""
    try:
        return data_folder(data, demo)
    except BadInput as error:
        window.fail(error)
        return None


def show_records(window: Window, folder: Path, demo: bool, fresh: bool = False, file: Path | None = None) -> None:
    """Open the records and show what was left open, or a file; what cannot be opened is told in the window."""
    from humble_courier.app.records.opening import open_records

    try:
        opened = open_records(folder, window.work.catalog, demo, fresh, window.work.clock)
    except CourierError as error:
        window.fail(error)
    else:
        window.work.records, window.work.machine = opened.records, opened.machine
        window.attach()
        walk_once(window)
        if file is not None:
            window.work.take_file(file)
