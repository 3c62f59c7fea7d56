"""A link in short: what goes in comes out; damaged ones are told; the code on a label is read by another library."""

import subprocess
from pathlib import Path

import numpy as np
import pytest
import zxingcpp
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtGui import QImage

from humble_courier.documents.link import LinkModel, LinkPart, LinkPort, LinkSettings
from humble_courier.documents.short_link import SCHEME, link_of, short_of
from humble_courier.errors import BadInput
from tests.cli.test_cli import run

LINK = """courier: link/1
name: Weir, level logger
computer: {port: usb-a}
device: {device: gauge-logger}
chain: [{part: usb-rs232}, {part: crossed-de9-3wire}]
settings: {computer: "1200,7E1"}
address: /dev/serial/by-id/usb-adapter-SK0001
"""
NAMES = st.text(min_size=1, max_size=30).filter(str.strip)
MODELS = st.builds(
    LinkModel, courier=st.just("link/1"), computer=st.builds(LinkPort, port=NAMES), device=st.builds(LinkPort, device=NAMES),
    chain=st.lists(st.builds(LinkPart, part=NAMES, turned=st.booleans()), max_size=4),
    settings=st.builds(LinkSettings, computer=st.sampled_from(["1200,7E1", "9600,8N1"])), name=st.just("a name"),
)  # fmt: skip


@given(MODELS)
def test_what_goes_in_comes_out(model: LinkModel) -> None:
    assert link_of(short_of(model)) == model


@given(st.text(max_size=60), st.integers(0, 80))
def test_what_is_damaged_is_told(noise: str, cut: int) -> None:
    whole = short_of(LinkModel("link/1", LinkPort(port="usb-a"), LinkPort(device="gauge-logger")))
    for text in (SCHEME + noise, whole[:cut]):
        if text != whole:
            with pytest.raises(BadInput, match="link in short"):
                link_of(text)


def test_the_code_on_a_label_is_read_by_another_library(tmp_path: Path) -> None:
    (tmp_path / "link.yaml").write_text(LINK)
    code, _, err = run("label", str(tmp_path / "link.yaml"), "--pdf", str(tmp_path / "label.pdf"))
    assert code == 0, err
    subprocess.run(
        ["pdftoppm", "-r", "300", "-png", "-singlefile", str(tmp_path / "label.pdf"), str(tmp_path / "label")], check=True
    )
    image = QImage(str(tmp_path / "label.png")).convertToFormat(QImage.Format.Format_Grayscale8)
    bits = image.bits()
    assert bits is not None
    rows = np.frombuffer(bits.asarray(image.sizeInBytes()), np.uint8).reshape(image.height(), image.bytesPerLine())
    (found,) = zxingcpp.read_barcodes(np.ascontiguousarray(rows[:, : image.width()]))
    read = link_of(found.text)
    assert read.name == "Weir, level logger" and read.chain[1].part == "crossed-de9-3wire"
    assert read.address == "/dev/serial/by-id/usb-adapter-SK0001"
