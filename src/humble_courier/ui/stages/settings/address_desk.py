"""The desk of the address page: rows to plans and back, kept with the link."""

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.files import write_whole
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.settings import address_rows as sheets
from humble_courier.app.settings.address_plans import judge_bus_text, judge_points_text, shown
from humble_courier.app.settings.address_rows import address_bank
from humble_courier.app.settings.site_plans import judge_site_text, site_csv, site_document, site_sections
from humble_courier.app.settings.site_rows import settled_site, site_fields, site_grid, site_lines, site_rows, site_text
from humble_courier.app.settings.timings import Figure
from humble_courier.documents.bus import BankModel
from humble_courier.documents.device import DeviceEntry
from humble_courier.documents.reader import read_text
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.ui.paper.sections import write_sections
from humble_courier.ui.stages.settings.address_page import AddressPage, PlanKind, PlanPane
from humble_courier.ui.stages.settings.network_desk import NetworkDesk
from humble_courier.ui.widgets.basics import fill
from humble_courier.ui.workplace import Workplace

GENERIC_BUS = "rs485-generic"
RADIXES = [("10", "decimal"), ("8", "octal"), ("16", "hexadecimal")]
GRID_EMPTY = sheets.Grid(16, ())


class AddressDesk(QObject):
    """Plans stand in the records under the link, as the open documents bus/1 and io/1."""

    told = pyqtSignal(str, str)  # headline and reason, for the stage

    def __init__(self, page: AddressPage, work: Workplace) -> None:
        super().__init__(page)
        self.page, self.work = page, work
        self._begun: OpenLink | None = None
        self._bank: BankModel | None = None
        page.kind_chosen.connect(self._again)
        for kind, pane in ((PlanKind.BUS, page.bus), (PlanKind.SITE, page.site), (PlanKind.POINTS, page.points)):
            pane.changed.connect(self._again)
            pane.one_more.connect(self._one_more)
            pane.settle.connect(self._settle)
            pane.opened.connect(self._open)
            pane.saved.connect(self._save)
            assert kind in page.panes
        page.network.changed.connect(self._again)
        self.network = NetworkDesk(page.network, work, self.told.emit)
        fill(page.points.kind, RADIXES, "10")

    def show(self) -> None:
        """Show the plans of the link, made anew from its device where none are kept."""
        link = self.work.link
        if link is not None and self._begun is not link:
            self._begun = link
            self._begin(link)
        self._again()

    def _begin(self, link: OpenLink) -> None:
        """What is kept of this link; else what its device's sheet says."""
        sheet, page = link.document.link.sheet, self.page
        protocols = [(id_, entry.name) for id_, entry in link.catalog.bus_protocols.items()]
        for pane in (page.bus, page.site):
            fill(pane.kind, protocols, GENERIC_BUS)
        self._bank = address_bank(sheet)
        kept_bus, kept_points = link.plans.get(PlanKind.BUS), link.plans.get(PlanKind.POINTS)
        if kept_bus is not None:
            self._take(PlanKind.BUS, kept_bus, "records")
        elif sheet is not None:
            self._begin_bus(sheet, link.document.link.device_settings)
        kept_site = link.plans.get(PlanKind.SITE)
        if kept_site is not None:
            self._take(PlanKind.SITE, kept_site, "records")
        else:
            fill(page.site.kind, [], page.bus.kind.currentData())
            page.site.extra.setText(page.bus.extra.text())
            page.site.show_rows([(row[0], "", row[1], "", "") for row in page.bus.rows()] or [("Device 1", "", "", "", "")])
        if kept_points is not None:
            self._take(PlanKind.POINTS, kept_points, "records")
        else:
            page.points.show_rows([("Module 1", "", "16", "")])
        network = sheet.network if sheet is not None else None
        self.network.begin(link)
        has_bus = sheet is not None and sheet.addresses is not None
        page.choose(PlanKind.NETWORK if network is not None and not has_bus else PlanKind.BUS)

    def _begin_bus(self, sheet: DeviceEntry, settings: Settings | None) -> None:
        """A bus with one device of this kind."""
        if sheet.addresses is not None:
            fill(self.page.bus.kind, [], sheet.addresses.bus)
        self.page.bus.extra.setText(settings.spoken if settings is not None else "")
        self.page.bus.show_rows([(f"{sheet.name} 1", "", "", "")])

    def _again(self) -> None:
        link = self.work.link
        if link is None or self._begun is not link:
            return
        shown = {
            PlanKind.BUS: self._show_bus, PlanKind.SITE: self._show_site, PlanKind.POINTS: self._show_points,
            PlanKind.NETWORK: self.network.show,
        }  # fmt: skip
        try:
            shown[self.page.kind](link)
            self.page.problem.hide()
        except BadInput as error:
            self.page.problem.setText(error.text)
            self.page.problem.show()
            self.told.emit("The plan cannot be judged yet", error.text)

    def _tell(self, figures: list[Figure], good: str) -> None:
        """The stage's headline: what is in conflict, else that all is well."""
        bad = [figure for figure in figures if not figure.good]
        if not bad:
            self.told.emit(good, "")
            return
        more = f"{len(bad) - 1} more conflicts stand below." if len(bad) > 1 else ""
        self.told.emit(bad[0].value[0].upper() + bad[0].value[1:], more)

    # Rows and documents

    def _text(self) -> str:
        page = self.page
        if page.kind is PlanKind.BUS:
            return sheets.bus_text(page.bus.kind.currentData(), page.bus.extra.text().strip(), page.bus.rows(), self._bank)
        if page.kind is PlanKind.SITE:
            fields = [field.text().strip() for field in page.site.extras]
            return site_text(page.site.kind.currentData(), fields, page.site.rows(), self._bank)
        return sheets.points_text(int(page.points.kind.currentData()), page.points.extra.text().strip(), page.points.rows())

    def _take(self, kind: PlanKind, text: str, name: str) -> None:
        """Fill the table out of a document. Raises BadInput."""
        if kind is PlanKind.BUS:
            model = judge_bus_text(text, name, self.work.catalog).model
            self._bank = model.bank
            fill(self.page.bus.kind, [], model.protocol)
            self.page.bus.extra.setText(model.settings or "")
            self.page.bus.show_rows(sheets.bus_rows(model))
        elif kind is PlanKind.SITE:
            site = judge_site_text(text, name, self.work.catalog).model
            self._bank = site.bank
            fill(self.page.site.kind, [], site.protocol)
            for field, shown in zip(self.page.site.extras, site_fields(site), strict=True):
                field.setText(shown)
            self.page.site.show_rows(site_rows(site))
        else:
            plan = judge_points_text(text, name)[1]
            fill(self.page.points.kind, [], str(plan.radix))
            self.page.points.extra.setText("" if plan.highest is None else str(plan.highest))
            self.page.points.show_rows(sheets.points_rows(plan))

    def _keep(self, kind: PlanKind, text: str) -> None:
        if self.work.link is not None:
            self.work.link.plans.keep(kind, text)

    # What follows

    def _show_bus(self, link: OpenLink) -> None:
        pane, text = self.page.bus, self._text()
        judged = judge_bus_text(text, "the plan", link.catalog)
        plan = judged.plan
        told = [Figure(c.where, c.text, c.costs_only) for c in plan.conflicts]
        for row, typed in zip(sheets.settled(judged), judged.model.members, strict=True):
            if row[1] and ((typed.address is None and typed.switches is None) or row[0] in plan.suggest):
                told.append(Figure(row[0], f"take {row[1]}" + (f", switches {row[2]}" if row[2] else "")))
        if plan.ok:
            told.insert(0, Figure("Addresses", "each is legal and stands once"))
        if plan.highest_master is not None:
            told.append(Figure("Highest master", f"set to {plan.highest_master}"))
        open_ones = bool(plan.suggest) or any(m.address is None and m.switches is None for m in judged.model.members)
        line = sheets.bus_line(judged, link.catalog, link.document.link.model.line.terminators)
        pane.show_plan(sheets.bus_grid(judged, link.catalog), told, open_ones, self.work.theme, [line])
        self._tell(told, "Each device has an address of its own")
        self._keep(PlanKind.BUS, text)

    def _show_site(self, link: OpenLink) -> None:
        pane, text = self.page.site, self._text()
        judged = judge_site_text(text, "the plan", link.catalog)
        plan = judged.plan
        told = [Figure(c.where, c.text, c.costs_only) for c in plan.conflicts]
        sizes = ", ".join(str(len(segment.members)) for segment in plan.segments)
        told.insert(0, Figure("Segments", f"{len(plan.segments)}, with {sizes} devices"))
        if not any(judged.model.bank or member.bank or member.switches for member in judged.model.members):
            told.append(Figure("Switches", "not known: the sheet of the link's device describes no bank for the address"))
        settled = settled_site(judged)
        pane.show_plan(site_grid(judged), told, settled != pane.rows(), self.work.theme, site_lines(judged))
        self._tell(told, f"{len(judged.model.members)} devices on {len(plan.segments)} segments, each address unique there")
        self._keep(PlanKind.SITE, text)

    def _show_points(self, link: OpenLink) -> None:
        text = self._text()
        plan, model = judge_points_text(text, "the plan")
        told = [Figure(c.where, c.text, False) for c in plan.conflicts]
        if plan.ok:
            told.insert(0, Figure("Points", "nothing overlaps"))
        free = [f"{letter}{shown(start, model.radix)}" for letter, start in plan.next_starts.items()]
        told.append(Figure("Next free start", ", ".join(free)))
        self.page.points.show_plan(sheets.points_grid(plan, model.radix), told, not plan.ok, self.work.theme)
        self._tell(told, "No module overlaps another")
        self._keep(PlanKind.POINTS, text)

    # Buttons

    def _one_more(self) -> None:
        kind = self.page.kind
        pane = self.page.panes[kind]
        assert isinstance(pane, PlanPane), "only asked of rows"
        rows = pane.rows()
        stem, number = (rows[-1][0].rstrip("0123456789 "), len(rows) + 1) if rows else ("Device", 1)
        names = {row[0] for row in rows}
        while f"{stem} {number}" in names:
            number += 1
        last = rows[-1] if rows else ("", "", "16", "")
        name = f"{stem} {number}"
        rest = {PlanKind.BUS: ("", "", last[-1]), PlanKind.SITE: ("", "", "", ""), PlanKind.POINTS: (last[1], last[2], "")}
        new = (name, *rest[kind])
        pane.show_rows([*rows, new])
        self._again()

    def _settle(self) -> None:
        self.work.do(self._settle_now)
        self._again()

    def _settle_now(self) -> None:
        page = self.page
        if page.kind is PlanKind.BUS:
            page.bus.show_rows(sheets.settled(judge_bus_text(self._text(), "the plan", self.work.catalog)))
        elif page.kind is PlanKind.SITE:
            page.site.show_rows(settled_site(judge_site_text(self._text(), "the plan", self.work.catalog)))
        else:
            page.points.show_rows(sheets.moved(*judge_points_text(self._text(), "the plan")))

    def _open(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self.page, "Open a plan", "", "YAML (*.yaml *.yml)")
        if chosen:
            self.open_file(Path(chosen))

    def open_file(self, path: Path) -> None:
        """Fill the shown table out of a file."""
        self.work.do(lambda: self._take(self.page.kind, read_text(path), str(path)))
        self._again()

    def _save(self) -> None:
        site = self.page.kind is PlanKind.SITE
        kinds = "YAML (*.yaml);;PDF (*.pdf);;CSV (*.csv)" if site else "YAML (*.yaml)"
        chosen, _ = QFileDialog.getSaveFileName(self.page, "Save", f"{self.page.kind}.yaml", kinds)
        if chosen:
            self.work.do(lambda: self.save_file(Path(chosen)))

    def save_file(self, path: Path) -> None:
        """Write the shown plan: as its document, or a site as paper or as a table too."""
        text = self._text()
        if self.page.kind is PlanKind.SITE and path.suffix.lower() in (".pdf", ".csv"):
            judged = judge_site_text(text, "the plan", self.work.catalog)
            if path.suffix.lower() == ".csv":
                write_whole(path, site_csv(judged))
            else:
                write_sections(f"Site plan {path.stem}", site_sections(site_document(judged)), path)
        else:
            write_whole(path, text.encode())
