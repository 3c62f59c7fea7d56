"""The desk of the Settings stage: hands values to its pages, carries out what they ask for."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import fields
from pathlib import Path

from msgspec import structs
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from humble_courier.address.switches import seen_from
from humble_courier.app.link.workbench import Workbench
from humble_courier.app.settings import banks, timings
from humble_courier.app.settings.both_ends import match
from humble_courier.app.settings.first_line import comparison
from humble_courier.app.settings.headline import settings_headline
from humble_courier.app.settings.inferring import Inferred, infer_bytes, infer_file
from humble_courier.catalog.sheets import variant_for
from humble_courier.documents.device import SwitchBank
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import BadInput, CourierError
from humble_courier.line.marked import stuff
from humble_courier.ui.stages.settings.address_desk import AddressDesk
from humble_courier.ui.stages.settings.photo_dialog import PhotoDialog
from humble_courier.ui.stages.settings.stage import SettingsAct, SettingsStage
from humble_courier.ui.theme import Theme

Do = Callable[[Callable[[], object]], None]
NOT_SAID = "as the sheet's first table says"


class SettingsDesk(QObject):
    """Everything of the Settings stage that is not drawing. Files are read beside the window."""

    _read = pyqtSignal(object)

    def __init__(self, stage: SettingsStage, do: Do) -> None:
        super().__init__(stage)
        self.stage, self._do = stage, do
        self.bench: Workbench | None = None
        self.theme = Theme()
        self.found: Inferred | None = None
        self._bank = ""
        self._positions: tuple[int, ...] = ()
        self._workers = ThreadPoolExecutor(max_workers=1, thread_name_prefix="reading")
        self.address = AddressDesk(stage.address, do)
        self._connect()

    def _connect(self) -> None:
        """All connections of the stage, in one place."""
        stage = self.stage
        stage.act_chosen.connect(self._again)
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
        stage.figures.changed.connect(self._again)
        self.address.told.connect(stage.say)
        self._read.connect(self._take)

    def rest(self) -> None:
        """The window goes: wait for what is being read."""
        self._workers.shutdown(wait=True)

    def show(self, bench: Workbench, theme: Theme) -> None:
        """Hand the current values to the open page."""
        if self.bench is not bench:
            self._bank, self._positions, self.found = "", (), None
            self.stage.capture.show_nothing(theme)
        self.bench, self.theme = bench, theme
        ours, theirs = bench.link.computer_settings, bench.link.device_settings
        if self.stage.act is not SettingsAct.ADDRESS:
            self.stage.say(*settings_headline(ours, theirs))
        pages = {
            SettingsAct.SEE: lambda: self.stage.ends.show_ends(ours, theirs, comparison(bench.link), theme),
            SettingsAct.COMPARE: lambda: self.stage.match.show_rows(match(bench.link), theme),
            SettingsAct.SWITCHES: lambda: self._show_switches(bench),
            SettingsAct.READ: lambda: self._show_reading(bench),
            SettingsAct.TIME: lambda: self._show_figures(bench),
            SettingsAct.ADDRESS: lambda: self.address.show(bench, theme),
        }
        pages[self.stage.act]()

    def _again(self) -> None:
        if self.bench is not None:
            self.show(self.bench, self.theme)

    # Switches

    def _chosen(self, bench: Workbench) -> SwitchBank | None:
        found = banks.banks_of(bench.link.sheet)
        return next((bank for bank in found if bank.id == self._bank), found[0] if found else None)

    def _show_switches(self, bench: Workbench) -> None:
        sheet, bank, page = bench.link.sheet, self._chosen(bench), self.stage.switches
        page.setEnabled(bank is not None)
        if sheet is None or bank is None:
            page.says.setText(self.tr("The sheet of this device names no switches."))
            return
        variants = [("", self.tr(NOT_SAID)), *((v.id, f"{v.id}: {v.tell}") for v in sheet.variants)]
        variant = bench.model.device.variant or ""
        page.show_choices([(b.id, f"{b.id}: {b.codes}") for b in sheet.banks], variants, bank.id, variant)
        if len(self._positions) != bank.width:
            self._positions = banks.start(bank, bench.link.device_settings)
        view = banks.view(bank, self._positions)
        tells = "; ".join(f"{v.id}: {v.tell} ({v.edition})" for v in sheet.variants)
        tell = self.tr("Revisions have other tables. {tells}.").format(tells=tells) if tells else ""
        firmware = bench.evidence.identity.get("firmware", "")
        told = variant_for(sheet, firmware)
        if told is not None:
            tell = self.tr("It told firmware {fw}: that is {id}. ").format(fw=firmware, id=told.id) + tell
        page.show_bank(view, tell, bank.codes != "address", self.theme)

    def _choose_bank(self, id_: str) -> None:
        self._bank, self._positions = id_, ()
        self._again()

    def _choose_variant(self, id_: str) -> None:
        bench = self.bench
        if bench is None or bench.model.device.device is None:
            return
        device = structs.replace(bench.model.device, variant=id_ or None)
        self._do(lambda: bench.change(structs.replace(bench.model, device=device)))

    def _turn(self, number: int) -> None:
        bank = self._chosen(self.bench) if self.bench is not None else None
        if bank is not None:
            self._positions = banks.turned(banks.view(bank, self._positions), number)
            self._again()

    def _move(self, where: Callable[[SwitchBank], tuple[int, ...]]) -> None:
        bench = self.bench
        bank = self._chosen(bench) if bench is not None else None
        if bank is None:
            return

        def act() -> None:
            positions = where(bank)
            banks.view(bank, positions)
            self._positions = positions

        self._do(act)

    def _photograph(self) -> None:
        bank = self._chosen(self.bench) if self.bench is not None else None
        kinds = self.tr("Pictures (*.png *.jpg *.jpeg *.bmp *.webp)")
        chosen, _ = QFileDialog.getOpenFileName(self.stage, self.tr("Picture of the bank"), "", kinds)
        if bank is None or not chosen:
            return

        def read() -> None:
            dialog = PhotoDialog(Path(chosen), bank.width, self.theme, self.stage)
            dialog.taken.connect(lambda seen: self._move(lambda _: seen_from(seen, bank.upside_down)))
            dialog.open()

        self._do(read)

    def _adopt_bank(self) -> None:
        bench = self.bench
        bank = self._chosen(bench) if bench is not None else None
        old = bench.link.device_settings if bench is not None else None
        if bench is None or bank is None or old is None:
            return
        new = banks.settings_said(bank, banks.view(bank, self._positions).says, old)
        if new is not None:
            self._do(lambda: bench.change(with_settings(bench.model, device=new)))

    # Read a recording

    def _show_reading(self, bench: Workbench) -> None:
        self.stage.capture.listen.setEnabled(any(len(u) for u in bench.utterances()))

    def _open(self) -> None:
        kinds = self.tr("Recordings (*.vcd *.csv *.bin *.raw *.marked);;All files (*)")
        chosen, _ = QFileDialog.getOpenFileName(self.stage, self.tr("Open a recording"), "", kinds)
        if chosen:
            self.read_file(Path(chosen))

    def read_file(self, path: Path) -> None:
        """Read a file beside the window; bytes are taken as heard with the computer's settings."""
        ours = self.bench.link.computer_settings if self.bench is not None else None
        self.stage.capture.show_busy(path.name)
        self._workers.submit(infer_file, path, None, ours, (), True).add_done_callback(self._read.emit)

    def _judge_heard(self) -> None:
        bench = self.bench
        ours = bench.link.computer_settings if bench is not None else None
        if bench is None or ours is None:
            return
        heard = [one for u in bench.utterances() for one in u.heard]
        self.stage.capture.show_busy(self.tr("{n} bytes").format(n=len(heard)))
        self._workers.submit(infer_bytes, stuff(heard), ours, marked=True).add_done_callback(self._read.emit)

    def _take(self, future: "Future[Inferred]") -> None:
        try:
            self.found = future.result()
        except CourierError as error:
            self.stage.capture.show_problem(str(error))
            return
        self.stage.capture.show_reading(self.found, self.theme)

    def _adopt_reading(self) -> None:
        bench, found = self.bench, self.found
        if bench is None or found is None:
            return
        old = bench.link.device_settings
        new = Settings(found.best.rate, Frame.parse(found.best.frame))
        new = with_old_handshake(new, old)
        self._do(lambda: bench.change(with_settings(bench.model, device=new)))

    # Timing and flow

    def _show_figures(self, bench: Workbench) -> None:
        try:
            asked = _numbers(self.stage.figures.asked())
        except BadInput as error:
            self.stage.reason.setText(str(error))
            return
        blocks = [
            (self.tr("Time"), timings.figures(bench.link, asked)),
            (self.tr("Flow"), timings.flow(bench.link, bench.trace, asked)),
            (self.tr("Clocks"), timings.clocks(bench.link)),
        ]
        self.stage.figures.show_figures(blocks, self.theme)


def with_old_handshake(new: Settings, old: Settings | None) -> Settings:
    """The same with the handshake that the end had: what arrives does not tell it."""
    return Settings(new.rate, new.frame, old.handshake) if old is not None else new


def _numbers(typed: dict[str, str]) -> timings.TimingAsked:
    """What is typed as numbers. Raises BadInput."""
    values: dict[str, float] = {}
    for field in fields(timings.TimingAsked):
        try:
            values[field.name] = float(typed[field.name])
        except ValueError:
            raise BadInput(f"“{typed[field.name]}” is no number") from None
        if not 0 <= values[field.name] < 1e9:
            raise BadInput(f"“{typed[field.name]}”: expected 0 or more")
    count, buffer = int(values["count"]), max(1, int(values["buffer"]))
    return timings.TimingAsked(count, values["timeout_ms"], values["turnaround_ms"], values["takes_per_s"], buffer)
