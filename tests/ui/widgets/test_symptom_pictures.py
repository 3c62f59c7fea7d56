"""Each symptom of the data is an outcome of a check, and has a picture that is not another one's."""

from PyQt6.QtCore import QSize

from humble_courier.app.diagnose.symptoms import pictured
from humble_courier.catalog.load import Catalog
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.symptom_pictures import DRAWINGS, SymptomPictures, picture


def test_each_symptom_is_an_outcome_and_is_drawn(window: object, catalog: Catalog) -> None:
    seen = set()
    for one in catalog.symptoms.values():
        assert one.outcome in catalog.checks[one.check].outcomes, one.id
        image = picture(one.shows, Theme()).pixmap(QSize(54, 36)).toImage()
        drawn = bytes(image.constBits().asarray(image.sizeInBytes()))  # type: ignore[union-attr]
        assert any(drawn), one.id
        seen.add(drawn)
    assert len(seen) == len(catalog.symptoms) == len(DRAWINGS)


def test_what_is_known_is_not_asked_again(window: object, catalog: Catalog) -> None:
    strip, got = SymptomPictures(), []
    strip.meant.connect(lambda check, outcome: got.append((check, outcome)))
    checks = {id_: catalog.checks[id_] for id_ in ("power-lamp", "seated")}
    strip.show_pictures(pictured(catalog.symptoms, checks, []), Theme())
    assert [key.text() for key in strip.keys] == ["All is dark", "Something is lit", "A plug was loose"]
    strip.keys[2].click()
    assert got == [("seated", "loose")]
    assert [one.says for one in pictured(catalog.symptoms, checks, ["power-lamp"])] == ["A plug was loose"]
