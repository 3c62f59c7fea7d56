"""The desk of the Settings stage: hands values to its pages, carries out what they ask for."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from msgspec import structs
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.stages import SettingsPage
from humble_courier.app.settings import banks, timings
from humble_courier.app.settings.both_ends import match
from humble_courier.app.settings.first_line import comparison
from humble_courier.app.settings.headline import settings_headline
from humble_courier.app.settings.inferring import Inferred, infer_file, infer_heard
from humble_courier.catalog.sheets import variant_for
from humble_courier.documents.device import SwitchBank
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import BadInput, CourierError
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.settings.address_desk import AddressDesk
from humble_courier.ui.stages.settings.photo_dialog import PhotoDialog
from humble_courier.ui.stages.settings.stage import SettingsStage
from humble_courier.ui.workplace import Workplace

NOT_SAID = "as the sheet's first table says"


class SettingsDesk(StageDesk):
    """Everything of the Settings stage that is not drawing. Files are read beside the window."""

    _read = pyqtSignal(object)

    def __init__(self, work: Workplace) -> None:
        self.stage = SettingsStage()
        super().__init__(self.stage, work)
        self.found: Inferred | None = None
        self._bank = ""
        self._positions: tuple[int, ...] = ()
        self._workers = ThreadPoolExecutor(max_workers=1, thread_name_prefix="reading")
        self.address = AddressDesk(self.stage.address, work)
        self.stage.capture.show_nothing(work.theme)
        self._connect()

    def _connect(self) -> None:
        """All connections of the stage, in one place."""
        stage = self.stage
        stage.page_chosen.connect(self.show)
        stage.ends.settings_changed.connect(self._change_end)
        stage.ends.adopt.connect(self._as_the_device)
        self.work.opened.connect(self._another_link)
        stage.switches.bank_changed.connect(self._choose_bank)
        stage.switches.variant_changed.connect(self._choose_variant)
        stage.switches.wanted.connect(lambda value: self._move(lambda bank: banks.wanted(bank, value)))
        stage.switches.seen.connect(lambda text: self._move(lambda bank: banks.as_seen(bank, text)))
        stage.switches.photographed.connect(self._photograph)
        stage.switches.turned.connect(self._turn)
        stage.switches.adopted.connect(self._adopt_bank)
        stage.capture.dropped.connect(self.read_file)
        stage.capture.opened.connect(self._open)
        stage.capture.heard.connect(self._judge_heard)
        stage.capture.adopted.connect(self._adopt_reading)
        stage.capture.told.connect(self._told_reading)
        stage.figures.changed.connect(self.show)
        self.address.told.connect(stage.say)
        self._read.connect(self._take)

    def rest(self) -> None:
        """The window goes: wait for what is being read."""
        self._workers.shutdown(wait=True)
        self.address.network.rest()

    def _another_link(self) -> None:
        """What was turned and read belongs to the link at which it was."""
        self._bank, self._positions, self.found = "", (), None
        self.stage.capture.show_nothing(self.work.theme)

    def show(self) -> None:
        """Hand the current values to the open page."""
        link, theme, page = self.work.link, self.work.theme, self.stage.page
        if link is None:
            return
        document = link.document
        ours, theirs = document.link.computer_settings, document.link.device_settings
        if page in (SettingsPage.SEE, SettingsPage.COMPARE):
            self.stage.say(*settings_headline(ours, theirs))
        pages = {
            SettingsPage.SEE: lambda: self.stage.ends.show_ends(ours, theirs, comparison(document.link), theme),
            SettingsPage.COMPARE: lambda: self.stage.match.show_rows(match(document.link), theme),
            SettingsPage.SWITCHES: lambda: self._show_switches(link),
            SettingsPage.READ: lambda: self._show_reading(link),
            SettingsPage.TIME: lambda: self._show_figures(link),
            SettingsPage.ADDRESS: self.address.show,
        }
        pages[page]()

    # See a character

    def _change_end(self, computer: bool, text: str) -> None:
        """Take other settings of one end."""

        def change() -> None:
            settings, link = Settings.parse(text), self.link()
            end = {"computer": settings} if computer else {"device": settings}
            link.change(with_settings(link.document.model, **end))

        self.work.do(change)

    def _as_the_device(self) -> None:
        """Open the computer's end as the device is set."""
        theirs = self.link().document.link.device_settings
        if theirs is not None:
            self._change_end(True, str(theirs))

    # Switches

    def _chosen(self, link: OpenLink) -> SwitchBank | None:
        found = banks.banks_of(link.document.link.sheet)
        return next((bank for bank in found if bank.id == self._bank), found[0] if found else None)

    def _show_switches(self, link: OpenLink) -> None:
        sheet, bank, page = link.document.link.sheet, self._chosen(link), self.stage.switches
        page.setEnabled(bank is not None)
        if sheet is None or bank is None:
            page.says.setText("")
            self.stage.say(
                "The sheet of this device names no switches", "Where they are known they are drawn here, to turn."
            )
            return
        variants = [("", NOT_SAID), *((v.id, f"{v.id}: {v.tell}") for v in sheet.variants)]
        variant = link.document.model.device.variant or ""
        page.show_choices([(b.id, f"{b.id}: {b.codes}") for b in sheet.banks], variants, bank.id, variant)
        if len(self._positions) != bank.width:
            self._positions = banks.start(bank, link.document.link.device_settings)
        view = banks.view(bank, self._positions)
        tells = "; ".join(f"{v.id}: {v.tell} ({v.edition})" for v in sheet.variants)
        tell = f"Revisions have other tables. {tells}." if tells else ""
        firmware = link.evidence.identity.get("firmware", "")
        told = variant_for(sheet, firmware)
        if told is not None:
            tell = f"It told firmware {firmware}: that is {told.id}. " + tell
        page.show_bank(view, tell, bank.codes != "address", self.work.theme)
        self.stage.say(*banks.headline(view, link.document.link.device_settings))

    def _choose_bank(self, id_: str) -> None:
        self._bank, self._positions = id_, ()
        self.show()

    def _choose_variant(self, id_: str) -> None:
        link = self.work.link
        if link is None or link.document.model.device.device is None:
            return
        device = structs.replace(link.document.model.device, variant=id_ or None)
        self.work.do(lambda: link.change(structs.replace(link.document.model, device=device)))

    def _turn(self, number: int) -> None:
        bank = self._chosen(self.work.link) if self.work.link is not None else None
        if bank is not None:
            self._positions = banks.turned(banks.view(bank, self._positions), number)
            self.show()

    def _move(self, where: Callable[[SwitchBank], tuple[int, ...]]) -> None:
        link = self.work.link
        bank = self._chosen(link) if link is not None else None
        if bank is None:
            return

        def act() -> None:
            positions = where(bank)
            banks.view(bank, positions)
            self._positions = positions

        self.work.do(act)

    def _photograph(self) -> None:
        bank = self._chosen(self.work.link) if self.work.link is not None else None
        kinds = "Pictures (*.png *.jpg *.jpeg *.bmp *.webp)"
        chosen, _ = QFileDialog.getOpenFileName(self.stage, "Picture of the bank", "", kinds)
        if bank is None or not chosen:
            return

        def read() -> None:
            dialog = PhotoDialog(Path(chosen), bank.width, self.work.theme, self.stage)
            dialog.taken.connect(lambda seen: self._move(lambda _: banks.as_photographed(bank, seen)))
            dialog.open()

        self.work.do(read)

    def _adopt_bank(self) -> None:
        link = self.work.link
        bank = self._chosen(link) if link is not None else None
        old = link.document.link.device_settings if link is not None else None
        if link is None or bank is None or old is None:
            return
        new = banks.settings_said(bank, banks.view(bank, self._positions).says, old)
        if new is not None:
            self.work.do(lambda: link.change(with_settings(link.document.model, device=new)))

    # Read a recording

    def _show_reading(self, link: OpenLink) -> None:
        page = self.stage.capture
        page.listen.setEnabled(any(len(u) for u in link.live.utterances()))
        page.show_example(comparison(link.document.link), self.work.theme)
        self.stage.say(page.said, page.more)

    def _open(self) -> None:
        kinds = "Recordings (*.vcd *.csv *.bin *.raw *.marked);;All files (*)"
        chosen, _ = QFileDialog.getOpenFileName(self.stage, "Open a recording", "", kinds)
        if chosen:
            self.read_file(Path(chosen))

    def read_file(self, path: Path) -> None:
        """Read a file beside the window; bytes are taken as heard with the computer's settings."""
        link = self.work.link.document.link if self.work.link is not None else None
        ours, theirs = (link.computer_settings, link.device_settings) if link is not None else (None, None)
        self.stage.capture.show_busy(path.name)
        self._workers.submit(infer_file, path, None, ours, (), True, theirs).add_done_callback(self._read.emit)

    def _judge_heard(self) -> None:
        link = self.work.link
        ours = link.document.link.computer_settings if link is not None else None
        if link is None or ours is None:
            return
        heard = [one for u in link.live.utterances() for one in u.heard]
        self.stage.capture.show_busy(f"{len(heard)} bytes")
        self._workers.submit(infer_heard, heard, ours, link.document.link.device_settings).add_done_callback(self._read.emit)

    def _take(self, future: "Future[Inferred]") -> None:
        try:
            self.found = future.result()
        except CourierError as error:
            self.stage.capture.show_problem(str(error))
            return
        self.stage.capture.show_reading(self.found, self.work.theme)

    def _told_reading(self, said: str, more: str) -> None:
        if self.stage.page is SettingsPage.READ:
            self.stage.say(said, more)

    def _adopt_reading(self) -> None:
        link, found = self.work.link, self.found
        if link is None or found is None:
            return
        old = link.document.link.device_settings
        new = Settings(found.best.rate, Frame.parse(found.best.frame))
        new = with_old_handshake(new, old)
        self.work.do(lambda: link.change(with_settings(link.document.model, device=new)))

    # Timing and flow

    def _show_figures(self, link: OpenLink) -> None:
        try:
            asked = timings.asked(self.stage.figures.asked())
        except BadInput as error:
            self.stage.problem(str(error))
            return
        blocks = [
            ("Time", timings.figures(link.document.link, asked)),
            ("Flow", timings.flow(link.document.link, link.document.trace, asked)),
            ("Clocks", timings.clocks(link.document.link)),
        ]
        page = self.stage.figures
        page.show_figures(blocks, self.work.theme)
        exchange, budgets = timings.exchange(link.document.link, asked), timings.budgets(link.document.link, asked)
        page.show_times(exchange, budgets, asked.timeout_ms / 1e3, self.work.theme)
        self.stage.say(*timings.headline(link.document.link, asked))


def with_old_handshake(new: Settings, old: Settings | None) -> Settings:
    """The same with the handshake that the end had: what arrives does not tell it."""
    return Settings(new.rate, new.frame, old.handshake) if old is not None else new
