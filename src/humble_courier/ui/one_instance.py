"""One window for one folder of records: a second start hands its file over to the first, which comes to the front."""

import hashlib
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtNetwork import QLocalServer, QLocalSocket

WAIT_MS, TAKEN_MS = 500, 10_000  # within which a window that is there answers, and has taken the file in
LONGEST = 8192  # bytes of a path


def _name(folder: Path) -> str:
    """The socket's name, which is the person's own and that of this folder."""
    return f"humble-courier-{hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:16]}"


def hand_over(folder: Path, file: Path | None) -> bool:
    """Hand a file (or nothing but the wish to be seen) to the window of this folder; False where there is none."""
    socket = QLocalSocket()
    socket.connectToServer(_name(folder))
    if not socket.waitForConnected(WAIT_MS):
        return False
    socket.write(str(file.resolve()).encode() if file is not None else b"")
    socket.write(b"\n")
    taken = socket.waitForReadyRead(TAKEN_MS)  # it may be a file that is there only as long as we are
    socket.disconnectFromServer()
    return taken


class OneInstance(QObject):
    """`wanted` gives the file that a second start brings; None where it only wants the window to be seen."""

    wanted = pyqtSignal(object)

    def __init__(self, folder: Path) -> None:
        super().__init__()
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._came)
        if not self._server.listen(_name(folder)):  # left over from a window that was killed
            QLocalServer.removeServer(_name(folder))
            self._server.listen(_name(folder))

    def _came(self) -> None:
        socket = self._server.nextPendingConnection()
        if socket is None:
            return
        socket.readyRead.connect(lambda: self._read(socket))
        socket.disconnected.connect(socket.deleteLater)

    def _read(self, socket: QLocalSocket) -> None:
        if not socket.canReadLine() and socket.bytesAvailable() < LONGEST:
            return
        said = bytes(socket.readLine(LONGEST)).decode(errors="replace").strip()
        self.wanted.emit(Path(said) if said else None)
        socket.write(b"taken\n")
        socket.flush()

    def close(self) -> None:
        """No second start finds this window any more."""
        self._server.close()
