"""A link in short, as it stands in the QR code of a label: `courier:` and the document, packed, in letters of URLs.

Packed with zlib (RFC 1950) and written in base64url without its padding (RFC 4648, 5); what is as it would be anyway is left
out, so that the code stays coarse enough for a label.
"""

import base64
import binascii
import zlib
from typing import Any

import msgspec

from humble_courier.documents.link import LinkModel
from humble_courier.errors import BadInput

SCHEME = "courier:"
LARGEST = 65_536  # bytes that such a text may unpack to


def short_of(model: LinkModel, name: str = "") -> str:
    """A link in short."""
    named = msgspec.structs.replace(model, name=name or model.name)
    packed = zlib.compress(msgspec.json.encode(_without_defaults(msgspec.to_builtins(named))), 9)
    return SCHEME + base64.urlsafe_b64encode(packed).decode().rstrip("=")


def link_of(text: str) -> LinkModel:
    """The link that is meant. Raises BadInput where it is none, or damaged."""
    letters = text.strip().removeprefix(SCHEME)
    try:
        packed = base64.b64decode(letters + "=" * (-len(letters) % 4), altchars=b"-_", validate=True)
        unpacking = zlib.decompressobj()
        document = unpacking.decompress(packed, LARGEST)
        if not unpacking.eof:
            raise BadInput("this link in short is cut off, or larger than any link")
        return msgspec.json.decode(document, type=LinkModel)
    except (binascii.Error, zlib.error, ValueError, RecursionError) as error:
        raise BadInput(f"this is no link in short ({SCHEME}…), or a damaged one: {error}") from None


def _without_defaults(value: Any) -> Any:
    if isinstance(value, dict):
        made = {key: _without_defaults(one) for key, one in value.items()}
        return {key: one for key, one in made.items() if one not in (None, "", [], {}, False)}
    return [_without_defaults(one) for one in value] if isinstance(value, list) else value
