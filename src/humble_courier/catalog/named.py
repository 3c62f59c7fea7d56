"""Connectors by the words that people have for them."""

from humble_courier.catalog.load import Catalog, nearest
from humble_courier.domain.hardware import Connector, Gender
from humble_courier.errors import BadInput


def connector_named(word: str, catalog: Catalog) -> Connector:
    """The connector that a person means by `D9`, `D 25`, `8P8C` or a shape's id. Raises BadInput."""
    wanted = _bare(word)
    shapes = catalog.shapes
    hits = [k for k, shape in shapes.items() if wanted in (_bare(shape.id), _bare(shape.name), _bare(f"{k[0]}{k[1]}"))]
    hits = hits or [key for key in shapes if _bare(key[0]) == wanted]
    if len(hits) != 1:
        known = [shape.id for shape in shapes.values()]
        raise BadInput(f"unknown connector “{word}”{nearest(word, known)}")
    return Connector(*hits[0], Gender.EITHER)


def _bare(word: str) -> str:
    return "".join(c for c in word if c.isalnum()).upper()


def ends_named(text: str, catalog: Catalog) -> tuple[Connector, Connector]:
    """The two connectors of `D9,D9`. Raises BadInput."""
    words = text.split(",")
    if len(words) != 2:
        raise BadInput(f"--ends {text}: expected two connectors with a comma between, as in D9,D25")
    return connector_named(words[0], catalog), connector_named(words[1], catalog)
