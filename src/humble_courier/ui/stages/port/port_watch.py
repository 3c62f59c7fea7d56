"""Looks at the ports beside the window: at once when udev tells of a plug, and now and then in any case."""

from concurrent.futures import Future, ThreadPoolExecutor

from PyQt6.QtCore import QObject, QSocketNotifier, pyqtSignal
from PyQt6.sip import voidptr

from humble_courier.app.port.machine import Machine, PlugEvents, Seen
from humble_courier.ui.timer import Timer

POLL_MS = 1000  # where nothing tells of plugs: a plug is out for longer than a second
REST_MS = 5000  # where udev tells: the rest of what may change, such as who holds a port
SETTLE_MS = 150  # a plug makes several events; the node has its owner and mode after the last one


class PortWatch(QObject):
    """Between `start` and `stop`, `looked` brings each look at the machine, in the window's thread."""

    looked = pyqtSignal(object)
    _done = pyqtSignal(object)

    def __init__(self, parent: QObject, events: PlugEvents | None) -> None:
        super().__init__(parent)
        self._machine: Machine | None = None
        self._workers = ThreadPoolExecutor(max_workers=1, thread_name_prefix="ports")
        self._busy = False
        self.timer = Timer(self, self._look, REST_MS if events else POLL_MS)
        self._settle = Timer(self, self._look, SETTLE_MS, once=True)
        self._done.connect(self._take)
        self._events = events
        if events is not None:
            self._notifier = QSocketNotifier(voidptr(events.fileno()), QSocketNotifier.Type.Read, self)
            self._notifier.activated.connect(lambda *_: self._plugged())

    def start(self, machine: Machine) -> None:
        """Look at this machine from now on."""
        self._machine = machine
        self.timer.start()

    def stop(self) -> None:
        """Look no more."""
        self._machine = None
        self.timer.stop()

    def close(self) -> None:
        """The window goes: wait for the look that is under way."""
        self.stop()
        self._workers.shutdown(wait=True)

    def _plugged(self) -> None:
        if self._events is not None and self._events.drain() and self._machine is not None:
            self._settle.start()

    def _look(self) -> None:
        if self._machine is None or self._busy:
            return
        self._busy = True
        self._workers.submit(self._machine.look).add_done_callback(self._done.emit)

    def _take(self, future: "Future[Seen]") -> None:
        self._busy = False
        seen = future.result()
        if self._machine is not None:
            self.looked.emit(seen)
