"""Records: what worked?"""

import time
from collections.abc import Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QListWidget, QListWidgetItem, QTextBrowser

from humble_courier.documents.records import Proof
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.widgets.basics import button, label


class RecordsStage(StageWidget):
    """Links that were kept, the proofs of the open one, and paper."""

    open_link = pyqtSignal(str)
    keep = pyqtSignal()
    pdf = pyqtSignal()
    svg = pyqtSignal()
    json = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        body = QHBoxLayout()
        body.setSpacing(16)
        self.links = QListWidget()
        self.links.setAccessibleName("Links")
        self.links.setMaximumWidth(300)
        self.links.itemActivated.connect(lambda item: self.open_link.emit(item.data(Qt.ItemDataRole.UserRole)))
        self.proof = QTextBrowser()
        self.proof.setAccessibleName("Newest proof")
        body.addWidget(self.links, 1)
        body.addWidget(self.proof, 2)
        self.column.addWidget(label("Links (Enter opens one) and the newest proof", "title"))
        self.column.addLayout(body, 1)
        row = QGridLayout()
        self.keep_button = button("Keep the proof", "main", self.keep.emit, "Ctrl+K")
        acts = [
            self.keep_button,
            button("Link sheet as PDF", "", self.pdf.emit, "Ctrl+S"),
            button("Wiring as SVG", "", self.svg.emit, "Ctrl+G"),
            button("All records as JSON", "", self.json.emit, "Ctrl+E"),
        ]
        for i, act in enumerate(acts):
            row.addWidget(act, i // 2, i % 2)
        row.setColumnStretch(2, 1)
        self.column.addLayout(row)

    def show_records(
        self, links: list[tuple[str, str]], current: str, proofs: list[Proof], can_keep: bool, left_out: Mapping[str, str]
    ) -> None:
        """Show links and the newest proof of the current one; `left_out`: rows that cannot be read, with the reason."""
        if proofs:
            when = time.strftime("%Y-%m-%d %H:%M", time.localtime(proofs[-1].at))
            self.say(
                f"Proven {when}",
                f"{grade_of(proofs[-1])} Proofs of this link in the record: {len(proofs)}.",
            )
        else:
            self.say("Nothing is proven yet", "A proof is kept once it answers, is read, or is heard for long enough.")
        if left_out:
            row, why = next(iter(left_out.items()))
            self.problem(f"{len(left_out)} rows of the records cannot be read and are left out, as {row}: {why}")
        self.keep_button.setEnabled(can_keep)
        self.links.clear()
        for id_, name in links:
            item = QListWidgetItem(name)
            item.setData(Qt.ItemDataRole.UserRole, id_)
            self.links.addItem(item)
            if id_ == current:
                self.links.setCurrentItem(item)
        self.proof.setHtml(proof_html(proofs[-1]) if proofs else "")


def grade_of(proof: Proof) -> str:
    """How strong it is and why, in a sentence."""
    return f"A {proof.grade} proof, {proof.kind}" + (f": {proof.reason}." if proof.reason else ".")


def proof_html(proof: Proof) -> str:
    """A proof as a short text."""
    from html import escape

    rows = [
        ("Proof", grade_of(proof)), ("Port", proof.port), ("Adapter", proof.adapter), ("Chain", " – ".join(proof.chain)),
        ("Computer", proof.computer_settings), ("Device", proof.device_settings), *proof.identity.items(),
    ]  # fmt: skip
    table = "".join(f"<tr><td style='padding-right:12px'>{escape(k)}</td><td><b>{escape(v)}</b></td></tr>" for k, v in rows)
    words = "".join(
        f"<p>{'we' if w.who == 'we' else 'device'}: <code>{escape(w.text)}</code>"
        f"{' — ' + escape(w.meaning) if w.meaning else ''}</p>"
        for w in proof.words
    )
    return f"<table>{table}</table>{words}"
