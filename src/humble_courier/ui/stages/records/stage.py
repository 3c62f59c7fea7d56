"""Records: what worked, and what became of it over time?"""

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from html import escape

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QMenu, QTextBrowser, QVBoxLayout

from humble_courier.app.records.comparing import Changed
from humble_courier.app.records.records import ListedLink, Sorted
from humble_courier.app.records.searching import FoundRow
from humble_courier.app.records.things import Thing
from humble_courier.app.records.timeline import Timeline
from humble_courier.documents.records import Proof
from humble_courier.domain.facts import State
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.stages.records.conflict_view import ConflictView
from humble_courier.ui.stages.records.time_view import TimeView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import PlainButton, button, fill, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.state_list import ListEntry, StateList

Story = Sequence[tuple[float, bool, str]]  # when, whether it was proven, what was said


@dataclass(frozen=True)
class LinkPast:
    """What became of a link. `at`: the moment looked at, with its proof and what it had otherwise than the one before.

    `since`: what changed since the last proof, in a sentence; `things`: what its parts did everywhere; `found`: where the
    words that are searched stand.
    """

    proofs: list[Proof]
    line: Timeline
    at: float
    looked: Proof | None
    changes: Sequence[Changed]
    since: str
    things: Sequence[Thing]
    found: Sequence[FoundRow] = ()


class RecordsStage(StageWidget):
    """Links that were kept, what became of the open one, and paper."""

    open_link = pyqtSignal(str)
    looked = pyqtSignal(str)  # at what became of a link
    wanted = pyqtSignal(str, str)  # words that are searched, and by what the links are sorted
    renamed = pyqtSignal(str, str)
    doubled = pyqtSignal(str)
    removed = pyqtSignal(str)
    put_back = pyqtSignal()
    moment = pyqtSignal(float)  # of its time, that is looked at
    merge = pyqtSignal()
    unmerge = pyqtSignal()
    search_kept = pyqtSignal(str)
    report = pyqtSignal()  # of the links that are shown
    handover = pyqtSignal()  # of the chosen one
    printed = pyqtSignal()
    cleared = pyqtSignal()
    copy = pyqtSignal()
    keep = pyqtSignal()
    yaml = pyqtSignal()
    pdf = pyqtSignal()
    svg = pyqtSignal()
    json = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._links: list[ListedLink] = []
        self.chosen_id = ""
        body = QHBoxLayout()
        body.setSpacing(16)
        left = QVBoxLayout()
        self.search, self.sort = QLineEdit(), QComboBox()
        self.search.setPlaceholderText("a word of a place, a device, a note; since:2026-10-01")
        self.search.setAccessibleName("Search the links")
        self.search.setClearButtonEnabled(True)
        self.sort.setAccessibleName("Sorted")
        self.sort.addItems([one.value for one in Sorted])
        self.search.textChanged.connect(lambda _: self._wanted())
        self.sort.activated.connect(lambda _: self._wanted())
        row = QHBoxLayout()
        row.addWidget(self.search, 1)
        row.addWidget(self.sort)
        left.addLayout(row)
        self.kept_searches, self.keep_search = QComboBox(), button("Keep this search", "", self._keep_search)
        self.kept_searches.setAccessibleName("Kept searches")
        self.kept_searches.activated.connect(lambda _: self.search.setText(self.kept_searches.currentData() or ""))
        self.kept_row = FlowRow([self.keep_search, self.kept_searches], wide=(self.kept_searches,))
        left.addWidget(self.kept_row)
        self.links = StateList("Links")
        self.links.opened.connect(lambda _: self._each(self.open_link.emit))
        self.links.taken.connect(lambda _: self._each(self.looked.emit))
        left.addWidget(self.links, 1)
        self.back = button("Put back", "", self.put_back.emit, "Ctrl+Shift+Backspace")
        acts = [
            button("Open", "main", lambda: self._each(self.open_link.emit), "Ctrl+O"),
            button("Rename", "", self._rename, "Ctrl+R"),
            button("Double", "", lambda: self._each(self.doubled.emit), "Ctrl+D"),
            button("Take out", "", lambda: self._each(self.removed.emit), "Ctrl+Backspace"),
            self.back,
        ]
        self.new_name = QLineEdit()
        self.new_name.setAccessibleName("Another name for the chosen link")
        self.new_name.returnPressed.connect(self._named)
        self.new_name.hide()
        left.addWidget(self.new_name)
        left.addWidget(FlowRow(list(acts)))
        self.proof = QTextBrowser()
        self.proof.setAccessibleName("What became of this link")
        self.time = TimeView()
        self.time.chosen.connect(self.moment.emit)
        body.addLayout(left, 1)
        right = QVBoxLayout()
        self.conflict = ConflictView()
        right.addWidget(self.conflict)
        right.addWidget(self.time)
        right.addWidget(self.proof, 1)
        body.addLayout(right, 1)
        self.column.addWidget(label("Links (Enter opens one), and what became of the chosen one", "title"))
        self.column.addLayout(body, 1)
        self.column.addWidget(self._paper())

    def _paper(self) -> FlowRow:
        """What is kept and put on paper; further files and other laptops under one button."""
        self.keep_button = button("Keep the proof", "main", self.keep.emit, "Ctrl+K")
        self.more = PlainButton("Further sheets, files, other laptops")
        menu = QMenu(self.more)
        for text, key, tell in (
            ("Handover sheet for a colleague", "", self.handover.emit),
            ("Report of the links that are shown", "", self.report.emit),
            ("Wiring as SVG", "Ctrl+G", self.svg.emit),
            ("Link as a file", "Ctrl+Shift+S", self.yaml.emit),
            ("All records as JSON", "Ctrl+E", self.json.emit),
            ("Copy of everything", "Ctrl+B", self.copy.emit),
            ("Take in the records of another laptop", "Ctrl+I", self.merge.emit),
            ("Take out links that were never proven and not touched for 90 days", "", self.cleared.emit),
        ):
            act = menu.addAction(text)
            if act is not None:
                act.setShortcut(key)
                act.triggered.connect(lambda _=False, tell=tell: tell())
                self.addAction(act)
        self.more.setMenu(menu)
        self.merge_back = button("Take the merge back", "", self.unmerge.emit)
        sheet = button("Link sheet as PDF", "", self.pdf.emit, "Ctrl+S")
        printed = button("Print it", "", self.printed.emit, "Ctrl+P")
        return FlowRow([self.keep_button, sheet, printed, self.more, self.merge_back])

    def _wanted(self) -> None:
        self.wanted.emit(self.search.text(), self.sort.currentText())

    def _keep_search(self) -> None:
        self.search_kept.emit(self.search.text())

    def show_searches(self, kept: Sequence[str]) -> None:
        """Searches that were kept; the press beside keeps the words that are typed, or lets go of them."""
        words = self.search.text().strip()
        self.keep_search.setVisible(bool(words))
        self.keep_search.setText("Keep this search" if words not in kept else "Let go of this search")
        self.kept_searches.setVisible(bool(kept))
        self.kept_row.setVisible(bool(words or kept))
        items = [("", "kept searches"), *((one, one) for one in kept)]
        if self.kept_searches.count() != len(items):
            self.kept_searches.clear()
        fill(self.kept_searches, items, words if words in kept else "")

    def show_merge(self, going: bool, can_go: bool) -> None:
        """Whether records are being taken in, and whether that can be taken back."""
        self.merge_back.setVisible(can_go and not going)

    @property
    def chosen(self) -> ListedLink | None:
        """The link that is chosen in the list."""
        at = self.links.currentRow()
        return self._links[at] if 0 <= at < len(self._links) else None

    def _each(self, tell: object) -> None:
        one = self.chosen
        if one is not None and callable(tell):
            self.chosen_id = one.id
            tell(one.id)

    def _rename(self) -> None:
        """The name can be written over, in place; Enter keeps it."""
        one = self.chosen
        self.new_name.setVisible(one is not None and not self.new_name.isVisible())
        if one is not None and self.new_name.isVisible():
            self.new_name.setText(one.name)
            self.new_name.selectAll()
            self.new_name.setFocus()

    def _named(self) -> None:
        one = self.chosen
        self.new_name.hide()
        if one is not None:
            self.renamed.emit(one.id, self.new_name.text())

    def show_links(self, links: Sequence[ListedLink], current: str, taken_out: Sequence[str], theme: Theme) -> None:
        """The links that were asked for; `current` is on the line."""
        self._links = list(links)
        lines = [ListEntry(*_told(one), "on the line" if one.id == current else "") for one in links]
        before = self.chosen_id if self.chosen_id in {one.id for one in links} else current
        chosen = next((i for i, one in enumerate(links) if one.id == before), 0 if links else -1)
        self.chosen_id = links[chosen].id if links else ""
        self.links.show_lines(lines, chosen, theme)
        self.back.setVisible(bool(taken_out))
        self.back.setToolTip(f"Puts back: {taken_out[-1]}" if taken_out else "")

    def show_story(self, past: LinkPast, can_keep: bool, left_out: Mapping[str, str], theme: Theme) -> None:
        """What became of the chosen link; `left_out`: rows that cannot be read, with the reason."""
        proofs, name = past.proofs, self.chosen.name if self.chosen else "this link"
        self.time.show_time(past.line, past.at, theme)
        if past.since:
            self.say(f"{name}: {past.since[0].lower()}{past.since[1:].rstrip('.')}", f"Last proof {_when(proofs[-1].at)}.")
        elif proofs:
            told = f"{grade_of(proofs[-1])} Proofs of this link in the record: {len(proofs)}."
            self.say(f"Proven {_when(proofs[-1].at)}: {name}", told)
        else:
            self.say("Nothing is proven yet", "A proof is kept once it answers, is read, or is heard for long enough.")
        if left_out:
            row, why = next(iter(left_out.items()))
            self.problem(f"{len(left_out)} rows of the records cannot be read and are left out, as {row}: {why}")
        self.keep_button.setEnabled(can_keep)
        looked = past.looked or (proofs[-1] if proofs else None)
        newest = proof_html(looked) if looked is not None else ""
        differs = changes_html(past.changes) if past.changes else ""
        found = found_html(past.found) if past.found else ""
        self.proof.setHtml(found + differs + newest + story_html(past.line.events, theme) + things_html(past.things, theme))


def _when(at: float) -> str:
    return time.strftime("%Y-%m-%d %H:%M", time.localtime(at))


def _told(one: ListedLink) -> tuple[State, str, str]:
    if one.proven is None:
        return State.UNKNOWN, one.name, f"{one.device} · not proven yet"
    return State.PROVEN, one.name, f"{one.device} · proven {_when(one.proven)}"


def grade_of(proof: Proof) -> str:
    """How strong it is and why, in a sentence."""
    return f"A {proof.grade} proof, {proof.kind}" + (f": {proof.reason}." if proof.reason else ".")


def story_html(story: Story, theme: Theme) -> str:
    """A line of time, the newest first: a tick for a proof, a triangle for a failure, each with its words."""
    if not story:
        return "<p>Proofs and failures of this link will stand here, one below the other, with their times.</p>"
    rows = []
    for at, proven, text in sorted(story, reverse=True):
        sign, word = ("✔", "proven") if proven else ("▲", "failed")
        colour = theme.palette.state(State.PROVEN if proven else State.CONTRADICTED).name()
        rows.append(f"<tr><td style='padding:2px 10px 6px 0'>{_when(at)}</td><td style='color:{colour};padding-right:10px'>"
                    f"<b>{sign}&nbsp;{word}</b></td><td>{escape(text)}</td></tr>")  # fmt: skip
    return f"<p><b>Over time</b></p><table>{''.join(rows)}</table>"


def proof_html(proof: Proof) -> str:
    """A proof as a short text."""
    rows = [
        ("Proof", grade_of(proof)), ("Port", proof.port), ("Adapter", proof.adapter), ("Chain", " – ".join(proof.chain)),
        ("Computer", proof.computer_settings), ("Device", proof.device_settings), *proof.identity.items(),
        *([("Kept by", proof.who)] if proof.who else []),
    ]  # fmt: skip
    table = "".join(f"<tr><td style='padding-right:12px'>{escape(k)}</td><td><b>{escape(v)}</b></td></tr>" for k, v in rows)
    words = "".join(
        f"<p>{'we' if w.who == 'we' else 'device'}: <code>{escape(w.text)}</code>"
        f"{' — ' + escape(w.meaning) if w.meaning else ''}</p>"
        for w in proof.words
    )
    return f"<table>{table}</table>{words}"


def changes_html(changes: Sequence[Changed]) -> str:
    """What a proof had otherwise than the one before, a row each."""
    cells = "".join(
        f"<tr><td style='padding-right:10px'>◆ {escape(one.what)}</td>"
        f"<td style='padding-right:10px'>{escape(one.before)}</td><td><b>{escape(one.now)}</b></td></tr>"
        for one in changes
    )
    return f"<p><b>Otherwise than at the proof before</b></p><table>{cells}</table>"


def things_html(things: Sequence[Thing], theme: Theme) -> str:
    """What the parts of this link did everywhere; a weak one is marked by shape and word."""
    if not things:
        return ""
    rows = []
    for one in things:
        colour = theme.palette.state(State.CONTRADICTED).name()
        weak = f"<span style='color:{colour}'>▲ weak: {one.failed} times failed</span>" if one.weak else ""
        rows.append(f"<tr><td style='padding-right:10px'>{escape(one.name)}</td><td style='padding-right:10px'>"
                    f"{one.served} of {one.served + one.failed}</td><td>{weak}</td></tr>")  # fmt: skip
    return f"<p><b>What this says about its parts</b> (served, of all uses everywhere)</p><table>{''.join(rows)}</table>"


def found_html(found: Sequence[FoundRow]) -> str:
    """Where the words that are searched stand, beside the names."""
    rows = "".join(
        f"<tr><td style='padding-right:10px'>{_when(one.at)}</td><td style='padding-right:10px'>{escape(one.link)}</td>"
        f"<td>{escape(one.kind)}: {escape(one.text[:120])}</td></tr>"
        for one in found
    )
    return f"<p><b>These words stand in</b></p><table>{rows}</table>"
