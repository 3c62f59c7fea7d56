"""A PDF to a printer that the person chooses: the same pages as the file, as large as the paper takes."""

from pathlib import Path

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter, QPrinterInfo
from PyQt6.QtWidgets import QDialog, QWidget

from humble_courier.errors import MachineRefused


def print_file(path: Path, parent: QWidget) -> bool:
    """Ask for the printer and print; False where nobody wanted to. Raises MachineRefused where it takes nothing."""
    if not QPrinterInfo.availablePrinterNames():
        raise MachineRefused("this computer knows no printer", "Write the sheet as PDF, and print that elsewhere")
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName("Humble Courier")
    dialog = QPrintDialog(printer, parent)
    accepted = dialog.exec() == QDialog.DialogCode.Accepted.value
    dialog.deleteLater()
    if not accepted:
        return False
    print_pages(path, printer)
    return True


def print_pages(path: Path, printer: QPrinter) -> None:
    """All pages of a PDF. Raises MachineRefused where the printer does not take them."""
    document = QPdfDocument(None)
    document.load(str(path))
    painter = QPainter()
    if not painter.begin(printer):
        raise MachineRefused("the printer takes nothing", "See to the printer, or write the PDF and print that")
    area = printer.pageRect(QPrinter.Unit.DevicePixel)
    for number in range(document.pageCount()):
        if number:
            printer.newPage()
        points = document.pagePointSize(number)
        scale = min(area.width() / points.width(), area.height() / points.height())
        size = QSize(round(points.width() * scale), round(points.height() * scale))
        painter.drawImage(QRectF(0, 0, size.width(), size.height()), document.render(number, size))
    painter.end()
    document.close()
