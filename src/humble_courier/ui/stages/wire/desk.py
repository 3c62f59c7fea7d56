"""The desk of the Wire stage: hands its pages their values from the workbench, and turns their intents into calls."""

from collections.abc import Callable
from pathlib import Path

from humble_courier.app.files import write_whole
from humble_courier.app.kit.contents import credited, link_part, parts_of
from humble_courier.app.link import choices
from humble_courier.app.link.workbench import Workbench
from humble_courier.app.typed import number
from humble_courier.app.wire import build_table, line_load
from humble_courier.app.wire.chains import advice, chain_line, chains, with_plan
from humble_courier.app.wire.meter import WEAK_OHM, MeterBench, may_carry, port_headline, port_named, port_rows
from humble_courier.app.wire.planning import Build, Planned, best_build, offers
from humble_courier.app.wire.wire_map import wire_map
from humble_courier.catalog.entries import ShapeEntry
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkPart
from humble_courier.documents.link_changes import with_inserted, with_link_part, with_part
from humble_courier.domain.hardware import Connector, Gender
from humble_courier.ui.stages.wire.stage import WireAct, WireStage
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.faces import Face
from humble_courier.wiring.identify.suspects import UNKNOWN
from humble_courier.wiring.identify.voltmeter import VoltReading

Do = Callable[[Callable[[], object]], None]  # carries an act out, tells a mistake, refreshes the window


class WireDesk:
    """Everything of the Wire stage that is not drawing."""

    def __init__(self, stage: WireStage, catalog: Catalog, do: Do) -> None:
        self.stage, self.catalog, self._do = stage, catalog, do
        self.bench: Workbench | None = None
        self.theme = Theme()
        self._meter: MeterBench | None = None
        self._port: Connector | None = None
        self._planned: tuple[object, Planned] | None = None
        self._connect()

    def _connect(self) -> None:
        """All connections of the stage, in one place."""
        stage = self.stage
        stage.act_chosen.connect(self._again)
        stage.map.part_changed.connect(self._change_part)
        stage.map.part_added.connect(self._add_part)
        stage.meter.said.connect(self._say)
        stage.meter.weak.connect(lambda: self._say(beep=True, ohm=WEAK_OHM))
        stage.meter.took_back.connect(self._take_back)
        stage.meter.began_anew.connect(self._begin_anew)
        stage.meter.ends_changed.connect(self._change_ends)
        stage.meter.adopted.connect(self._adopt)
        stage.volts.connector_changed.connect(self._change_port)
        stage.volts.changed.connect(self._again)
        stage.chains.marked.connect(lambda _: self._show_marked())
        stage.chains.taken.connect(self._take_chain)
        stage.chains.build_wanted.connect(lambda: stage.choose(WireAct.BUILD))
        stage.load.changed.connect(self._change_line)
        stage.build.scheme_changed.connect(self._again)

    def show(self, bench: Workbench, theme: Theme) -> None:
        """Hand the current values to the open page."""
        if self.bench is None or self.bench.link_id != bench.link_id:
            self._meter = self._port = None
        self.bench, self.theme = bench, theme
        pages = {
            WireAct.FOLLOW: self._show_map, WireAct.CABLE: self._show_meter, WireAct.PORT: self._show_volts,
            WireAct.CHOOSE: self._show_chains, WireAct.LOAD: self._show_load, WireAct.BUILD: self._show_build,
        }  # fmt: skip
        pages[self.stage.act](bench)

    def _again(self) -> None:
        if self.bench is not None:
            self.show(self.bench, self.theme)

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

    def _show_map(self, bench: Workbench) -> None:
        chain, segment = bench.trace.chain, bench.trace.paths.segments[-1]
        near = chain.ends(segment.near[0])[segment.near[1]].connector
        wiring = bench.wire_map()
        self.stage.say(wiring.headline, wiring.reason)
        self.stage.map.show_map(wiring, near, bench.link.device.connector, self.catalog.shapes, self.theme)
        parts = [(p.id, p.name, p.kind != "usb-adapter") for p in bench.link.parts]
        self.stage.map.show_parts(parts, choices.between(self.catalog))

    def _change_part(self, index: int, part: str) -> None:
        bench = self._bench()
        self._do(lambda: bench.change(with_part(bench.model, index, part or None)))

    def _add_part(self, part: str) -> None:
        bench = self._bench()
        self._do(lambda: bench.change(with_inserted(bench.model, len(bench.model.chain), part)))

    def _bench(self) -> Workbench:
        assert self.bench is not None, "only called where a link is on the line"
        return self.bench

    # Name a cable

    def _cable(self, bench: Workbench) -> MeterBench:
        """The cable under the meter; at first one with the connectors that the link's cable has."""
        if self._meter is None:
            part = next((p for p in bench.trace.chain.parts if not p.active), None)
            ends = [end.connector for end in part.ends[:2]] if part else [bench.link.device.connector] * 2
            self._meter = self._fresh((ends[0], ends[1]))
        return self._meter

    def _fresh(self, ends: tuple[Connector, Connector]) -> MeterBench:
        """Nothing measured yet; leads of the kit that are written out are suspected as well."""
        own = tuple(k.part for k in parts_of(self._bench().kit, self.catalog) if k.item.part is None)
        return MeterBench(self.catalog, ends, own)

    def _show_meter(self, bench: Workbench) -> None:
        meter, page = self._cable(bench), self.stage.meter
        named = meter.named()
        page.show_shapes(self._halves(), (self._id(meter.ends[0]), self._id(meter.ends[1])))
        touch = named.next_touch
        faces = []
        for i, end in enumerate(meter.ends):
            shape = self._shape(end)
            at = next((c.contact for c in touch if c.end == i), None) if touch else None
            faces.append(Face(end, shape, touch=at) if shape else None)
        page.show_touch((str(touch[0]), str(touch[1])) if touch else None, (faces[0], faces[1]), self.theme)
        page.show_said(
            meter.rows(named), list(named.contradictions), len(meter.readings), named.name is not None, self.theme
        )
        self.stage.say(*meter.headline(named))

    def _say(self, beep: bool, ohm: float | None = None) -> None:
        meter = self._cable(self._bench())
        touch = meter.named().next_touch
        if touch is not None:
            meter.say(touch, beep, ohm)
        self._again()

    def _take_back(self) -> None:
        self._cable(self._bench()).back()
        self._again()

    def _begin_anew(self) -> None:
        ends = self._cable(self._bench()).ends
        self._meter = self._fresh(ends)
        self._again()

    def _change_ends(self, first: str, second: str) -> None:
        self._meter = self._fresh((self._half(first), self._half(second)))
        self._again()

    def _adopt(self) -> None:
        """Note what the meter found, and lay that cable into the link."""
        bench, meter = self._bench(), self._cable(self._bench())
        named = meter.named()
        if named.name is None or named.name == UNKNOWN:
            return
        faults = ", ".join(f"{f.code} at {f.where}" for f, _ in named.faults)
        state = f", faulty: {faults}" if faults else ", whole" if named.proven else ""
        text = f"Measured: {meter.part_name(named.name)}{state} ({len(meter.readings)} touches)"
        index = next((i for i, p in enumerate(bench.link.parts) if not p.active), None)

        name = named.name
        lying = next((link_part(item, turned=False) for item in bench.kit.items if item.id == name), LinkPart(part=name))

        def note() -> None:
            bench.measured(f"measured {name}", text, holds=not faults)
            if faults:
                bench.change_kit(credited(bench.kit, [lying], served=False))
            elif index is not None and bench.link.parts[index].id != name:
                bench.change(with_link_part(bench.model, index, lying))

        self._do(note)

    # Name a port

    def _show_volts(self, bench: Workbench) -> None:
        connector = self._port or bench.link.device.connector
        shape, page = self._shape(connector), self.stage.volts
        contacts = [c for row in shape.rows for c in row] if shape else [str(i + 1) for i in range(connector.contacts)]
        page.show_connectors(self._halves(), self._id(connector))
        page.show_face(Face(connector, shape) if shape else None, contacts, self.theme)
        page.carries.setText("\n".join(may_carry(shape)) if shape else "")
        typed = {contact: number(text) for contact, text in page.typed().items()}
        wrong = [contact for contact, volts in typed.items() if volts is None]
        readings = [VoltReading(contact, volts) for contact, volts in typed.items() if volts is not None]
        found = port_named(connector, readings, self.catalog)
        self.stage.say(*port_headline(found, len(readings)))
        page.guesses.show_suspects(port_rows(found, self.catalog) if readings else [], self.theme)
        said = [f"Contact {contact}: a number is expected, as in -9.6." for contact in wrong]
        page.remarks.setText("\n".join(said + [remark.text + "." for remark in found.remarks]))

    def _change_port(self, id_: str) -> None:
        self._port = self._half(id_)
        self._again()

    # Pick from the kit

    def _plan(self, bench: Workbench) -> Planned:
        state = (bench.model, bench.kit)
        if self._planned is None or self._planned[0] != state:
            self._planned = (state, chains(bench.link, bench.kit, self.catalog))
        return self._planned[1]

    def _show_chains(self, bench: Workbench) -> None:
        found = self._plan(bench)
        plans = found.outcome.plans
        self.stage.chains.show_chains([chain_line(i, plan) for i, plan in enumerate(plans, start=1)], advice(found))
        if plans:
            many = f"{len(plans)} chains of your kit would do" if len(plans) > 1 else "One chain of your kit would do"
            self.stage.say(many, "Best first: verdict, then joints, parts, cost, and how each part has served.")
        else:
            self.stage.say("Nothing in your kit will do", "The kit is in the rail on the left, F8.")
        self._show_marked()

    def _show_marked(self) -> None:
        plans = self._plan(self._bench()).outcome.plans if self.bench else ()
        row = self.stage.chains.list.currentRow()
        self.stage.chains.show_map(wire_map(plans[row].trace) if 0 <= row < len(plans) else None, self.theme)

    def _take_chain(self, row: int) -> None:
        bench = self._bench()
        plans = self._plan(bench).outcome.plans
        if 0 <= row < len(plans):
            model = with_plan(bench.model, plans[row], bench.kit.items)
            self._do(lambda: bench.change(model))
            self.stage.choose(WireAct.FOLLOW)

    # Length and load

    def _show_load(self, bench: Workbench) -> None:
        line, page = bench.link.model.line, self.stage.load
        bus = line_load.is_bus(bench.trace)
        page.show_fields(line_load.asked(bench.link, bench.trace), line.terminators, line.between_buildings, bus)
        page.show_figures(line_load.figures(bench.trace, self.catalog), line_load.remarks(bench.trace))
        page.reaches.setText(line_load.reaches(bench.trace, self.catalog))
        self.stage.say(*line_load.headline(bench.trace))

    def _change_line(self) -> None:
        bench, page = self._bench(), self.stage.load
        values = {key: field.text() for key, field in page.fields.items()}
        terminators, buildings = page.terminators.currentData(), page.buildings.isChecked()
        self._do(lambda: bench.change(line_load.answered(bench.model, values, terminators, buildings)))

    # Build

    def _build(self, bench: Workbench) -> Build | None:
        scheme = self.stage.build.scheme.currentData() or "own"
        kept = [offer for offer in offers(parts_of(bench.kit, self.catalog)) if offer.part.active]
        return best_build(bench.link, kept, self.catalog, scheme)

    def _show_build(self, bench: Workbench) -> None:
        from humble_courier.ui.paper.build_sheet import pieces

        page = self.stage.build
        page.show_schemes([(id_, entry.name) for id_, entry in self.catalog.colours.items()])
        found = self._build(bench)
        html = "".join(pieces(found)) if found else ""
        page.show_sheet(found.sheet if found else None, html, self.catalog.shapes, self.theme)
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

    def save_build(self, kind: str, path: Path) -> None:
        """Write the build sheet as `pdf`, `svg` or `csv`. Raises CourierError."""
        from humble_courier.ui.paper.build_sheet import write_build_pdf, write_build_svg

        found = self._build(self._bench())
        if found is None:
            return
        if kind == "csv":
            write_whole(path, build_table.table(found.sheet))
        elif kind == "svg":
            write_build_svg(found.sheet, self.catalog.shapes, path)
        else:
            write_build_pdf(found, self.catalog.shapes, path)
