"""The desk of the Wire stage: hands its pages their values, and turns their intents into calls."""

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.files import write_whole
from humble_courier.app.kit.contents import parts_of
from humble_courier.app.link import choices
from humble_courier.app.link.measured_cable import adopt
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.stages import WirePage
from humble_courier.app.typed import number
from humble_courier.app.wire import build_table, line_load
from humble_courier.app.wire.chains import advice, chain_line, chains, with_plan
from humble_courier.app.wire.meter import WEAK_OHM, MeterBench, may_carry, port_headline, port_named, port_rows
from humble_courier.app.wire.planning import Build, Planned, best_build, offers
from humble_courier.app.wire.proposals import made_by_hand
from humble_courier.app.wire.wire_map import wire_map
from humble_courier.catalog.entries import ShapeEntry
from humble_courier.documents.link_changes import with_inserted, with_part
from humble_courier.domain.hardware import Connector, Gender
from humble_courier.errors import BadInput
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.wire.stage import WireStage
from humble_courier.ui.widgets.faces import Face
from humble_courier.ui.workplace import Workplace
from humble_courier.wiring.identify.voltmeter import VoltReading
from humble_courier.wiring.planner.search import Offer

FILTERS = {"pdf": "PDF (*.pdf)", "svg": "SVG (*.svg)", "csv": "CSV (*.csv)"}


class WireDesk(StageDesk):
    """Everything of the Wire stage that is not drawing."""

    def __init__(self, work: Workplace) -> None:
        self.stage = WireStage(work.theme)
        super().__init__(self.stage, work)
        self.catalog = work.catalog
        self._meter: MeterBench | None = None
        self._port: Connector | None = None
        self._planned: tuple[object, Planned] | None = None
        self._connect()

    def _connect(self) -> None:
        """All connections of the stage, in one place."""
        stage = self.stage
        stage.page_chosen.connect(self.show)
        self.work.opened.connect(self._another_link)
        stage.map.part_changed.connect(self._change_part)
        stage.map.part_added.connect(self._add_part)
        stage.meter.said.connect(self._say)
        stage.meter.weak.connect(lambda: self._say(beep=True, ohm=WEAK_OHM))
        stage.meter.took_back.connect(self._take_back)
        stage.meter.began_anew.connect(self._begin_anew)
        stage.meter.ends_changed.connect(self._change_ends)
        stage.meter.adopted.connect(self._adopt)
        stage.volts.connector_changed.connect(self._change_port)
        stage.volts.changed.connect(self.show)
        stage.chains.marked.connect(lambda _: self._show_marked())
        stage.chains.taken.connect(self._take_chain)
        stage.chains.build_wanted.connect(lambda: stage.choose(WirePage.BUILD))
        stage.load.changed.connect(self._change_line)
        stage.build.scheme_changed.connect(self.show)
        stage.build.saved.connect(self._save_build)
        stage.build.laid.connect(lambda: self.work.do(self._lay))

    def _another_link(self) -> None:
        """Readings belong to the link at which they were taken."""
        self._meter = self._port = None

    def show(self) -> None:
        """Hand the current values to the open page."""
        link = self.work.link
        if link is None:
            return
        pages = {
            WirePage.FOLLOW: self._show_map, WirePage.CABLE: self._show_meter, WirePage.PORT: self._show_volts,
            WirePage.CHOOSE: self._show_chains, WirePage.LOAD: self._show_load, WirePage.BUILD: self._show_build,
        }  # fmt: skip
        pages[self.stage.page](link)

    def _shape(self, connector: Connector) -> ShapeEntry | None:
        return self.catalog.shapes.get((connector.family, connector.contacts))

    def _halves(self) -> list[tuple[str, str]]:
        """All connectors that may be met, as plug and as socket."""
        shapes = [shape for shape in self.catalog.shapes.values() if shape.family != "lead"]
        return [
            (f"{shape.id} {gender}", f"{shape.name}, {gender}")
            for shape in shapes
            for gender in (Gender.PLUG, Gender.SOCKET)
        ]

    def _half(self, id_: str) -> Connector:
        """The connector of an entry of that list."""
        shape_id, _, gender = id_.rpartition(" ")
        shape = next(shape for shape in self.catalog.shapes.values() if shape.id == shape_id)
        return Connector(shape.family, shape.contacts, Gender(gender))

    def _id(self, connector: Connector) -> str:
        shape = self._shape(connector)
        return f"{shape.id} {connector.gender}" if shape else ""

    # Follow

    def _show_map(self, link: OpenLink) -> None:
        chain, segment = link.document.trace.chain, link.document.trace.paths.segments[-1]
        near = chain.ends(segment.near[0])[segment.near[1]].connector
        wiring = link.document.wire_map()
        self.stage.say(wiring.headline, wiring.reason)
        laid = link.document.link.parts
        lands = {contact: colour for part in laid for end in part.ends for colour, contact in end.lands.items()}
        far = link.document.link.device.connector
        self.stage.map.show_map(wiring, near, far, self.catalog.shapes, self.work.theme, lands)
        parts = [(p.id, p.name, p.kind != "usb-adapter") for p in link.document.link.parts]
        self.stage.map.show_parts(parts, choices.between(self.catalog))

    def _change_part(self, index: int, part: str) -> None:
        link = self.link()
        self.work.do(lambda: link.change(with_part(link.document.model, index, part or None)))

    def _add_part(self, part: str) -> None:
        link = self.link()
        self.work.do(lambda: link.change(with_inserted(link.document.model, len(link.document.model.chain), part)))

    # Name a cable

    def _cable(self, link: OpenLink) -> MeterBench:
        """The cable under the meter; at first one with the connectors that the link's cable has."""
        if self._meter is None:
            part = next((p for p in link.document.trace.chain.parts if not p.active), None)
            ends = [end.connector for end in part.ends[:2]] if part else [link.document.link.device.connector] * 2
            self._meter = self._fresh((ends[0], ends[1]))
        return self._meter

    def _fresh(self, ends: tuple[Connector, Connector]) -> MeterBench:
        """Nothing measured yet; leads of the kit that are written out are suspected as well."""
        own = tuple(k.part for k in parts_of(self.link().bag.kit, self.catalog) if k.item.part is None)
        return MeterBench(self.catalog, ends, own)

    def _show_meter(self, link: OpenLink) -> None:
        meter, page = self._cable(link), self.stage.meter
        named = meter.named()
        page.show_shapes(self._halves(), (self._id(meter.ends[0]), self._id(meter.ends[1])))
        touch = named.next_touch
        faces = []
        for i, end in enumerate(meter.ends):
            shape = self._shape(end)
            at = next((c.contact for c in touch if c.end == i), None) if touch else None
            faces.append(Face(end, shape, touch=at) if shape else None)
        page.show_touch((str(touch[0]), str(touch[1])) if touch else None, (faces[0], faces[1]), self.work.theme)
        page.show_said(
            meter.rows(named), list(named.contradictions), len(meter.readings), named.name is not None, self.work.theme
        )
        self.stage.say(*meter.headline(named))

    def _say(self, beep: bool, ohm: float | None = None) -> None:
        meter = self._cable(self.link())
        touch = meter.named().next_touch
        if touch is not None:
            meter.say(touch, beep, ohm)
        self.show()

    def _take_back(self) -> None:
        self._cable(self.link()).back()
        self.show()

    def _begin_anew(self) -> None:
        ends = self._cable(self.link()).ends
        self._meter = self._fresh(ends)
        self.show()

    def _change_ends(self, first: str, second: str) -> None:
        self._meter = self._fresh((self._half(first), self._half(second)))
        self.show()

    def _adopt(self) -> None:
        """Note what the meter found, and lay that cable into the link."""
        link = self.link()
        meter = self._cable(link)
        self.work.do(lambda: adopt(link, meter))

    # Name a port

    def _show_volts(self, link: OpenLink) -> None:
        connector = self._port or link.document.link.device.connector
        shape, page = self._shape(connector), self.stage.volts
        contacts = [c for row in shape.rows for c in row] if shape else [str(i + 1) for i in range(connector.contacts)]
        page.show_connectors(self._halves(), self._id(connector))
        page.show_face(Face(connector, shape) if shape else None, contacts, self.work.theme)
        page.carries.setText("\n".join(may_carry(shape)) if shape else "")
        typed = {contact: number(text) for contact, text in page.typed().items()}
        wrong = [contact for contact, volts in typed.items() if volts is None]
        readings = [VoltReading(contact, volts) for contact, volts in typed.items() if volts is not None]
        found = port_named(connector, readings, self.catalog)
        self.stage.say(*port_headline(found, len(readings)))
        page.guesses.show_suspects(port_rows(found, self.catalog) if readings else [], self.work.theme)
        said = [f"Contact {contact}: a number is expected, as in -9.6." for contact in wrong]
        page.remarks.setText("\n".join(said + [remark.text + "." for remark in found.remarks]))

    def _change_port(self, id_: str) -> None:
        self._port = self._half(id_)
        self.show()

    # Pick from the kit

    def _plan(self, link: OpenLink) -> Planned:
        state = (link.document.model, link.bag.kit)
        if self._planned is None or self._planned[0] != state:
            self._planned = (state, chains(link.document.link, link.bag.kit, self.catalog))
        return self._planned[1]

    def _show_chains(self, link: OpenLink) -> None:
        found = self._plan(link)
        plans = found.outcome.plans
        self.stage.chains.show_chains([chain_line(i, plan) for i, plan in enumerate(plans, start=1)], advice(found))
        if plans:
            many = f"{len(plans)} chains of your kit would do" if len(plans) > 1 else "One chain of your kit would do"
            self.stage.say(many, "Best first: verdict, then joints, parts, cost, and how each part has served.")
        else:
            self.stage.say("Nothing in your kit will do", "The kit is in the rail on the left, F8.")
        self._show_marked()

    def _show_marked(self) -> None:
        plans = self._plan(self.link()).outcome.plans
        row = self.stage.chains.list.currentRow()
        self.stage.chains.show_map(wire_map(plans[row].trace) if 0 <= row < len(plans) else None, self.work.theme)

    def _take_chain(self, row: int) -> None:
        link = self.link()
        plans = self._plan(link).outcome.plans
        if 0 <= row < len(plans):
            model = with_plan(link.document.model, plans[row], link.bag.kit.items)
            self.work.do(lambda: link.change(model))
            self.stage.choose(WirePage.FOLLOW)

    # Length and load

    def _show_load(self, link: OpenLink) -> None:
        line, page = link.document.link.model.line, self.stage.load
        bus = line_load.is_bus(link.document.trace)
        page.show_fields(
            line_load.asked(link.document.link, link.document.trace), line.terminators, line.between_buildings, bus
        )
        trace = link.document.trace
        page.show_figures(
            line_load.reaches(trace, self.catalog), line_load.figures(trace, self.catalog), line_load.remarks(trace),
            self.work.theme,
        )  # fmt: skip
        self.stage.say(*line_load.headline(link.document.trace))

    def _change_line(self) -> None:
        link, page = self.link(), self.stage.load
        values = {key: field.text() for key, field in page.fields.items()}
        terminators, buildings = page.terminators.currentData(), page.buildings.isChecked()
        self.work.do(lambda: link.change(line_load.answered(link.document.model, values, terminators, buildings)))

    # Build

    def _build(self, link: OpenLink) -> Build | None:
        scheme = self.stage.build.scheme.currentData() or "own"
        lying = [Offer(part) for part in link.document.link.parts if part.active]  # what is on the line stays on it
        kept = lying or [offer for offer in offers(parts_of(link.bag.kit, self.catalog)) if offer.part.active]
        return best_build(link.document.link, kept, self.catalog, scheme)

    def _lay(self) -> None:
        """The cable that is to be made, in the chain as if it were."""
        link = self.link()
        found = self._build(link)
        if found is None:
            raise BadInput("no cable joins these two ports")
        link.change(made_by_hand(link.document.link, found).model)

    def _show_build(self, link: OpenLink) -> None:
        from humble_courier.ui.paper.build_sheet import pieces

        page = self.stage.build
        page.show_schemes([(id_, entry.name) for id_, entry in self.catalog.colours.items()])
        found = self._build(link)
        html = "".join(pieces(found)) if found else ""
        page.show_sheet(found.sheet if found else None, html, self.catalog.shapes, self.work.theme)
        if found is None:
            self.stage.say(
                "No cable joins these two ports", "They speak in ways that no converter of the catalog translates."
            )
            return
        wires = len({(w.a, w.b) for w in found.sheet.wires})
        self.stage.say(
            f"A cable with {wires} conductors will do: {found.sheet.a} to {found.sheet.b}",
            f"Traced like any other chain: {found.trace.verdict}. Solder by the solder side, accept by the meter.",
        )

    def _save_build(self, kind: str) -> None:
        """Ask for a file and write the build sheet."""
        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", f"build-sheet.{kind}", FILTERS[kind])
        if chosen:
            self.work.do(lambda: self.save_build(kind, Path(chosen)))

    def save_build(self, kind: str, path: Path) -> None:
        """Write the build sheet as `pdf`, `svg` or `csv`. Raises CourierError."""
        from humble_courier.ui.paper.build_sheet import write_build_pdf, write_build_svg

        found = self._build(self.link())
        if found is None:
            return
        if kind == "csv":
            write_whole(path, build_table.table(found.sheet))
        elif kind == "svg":
            write_build_svg(found.sheet, self.catalog.shapes, path)
        else:
            write_build_pdf(found, self.catalog.shapes, path)
