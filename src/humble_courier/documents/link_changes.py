"""Changes of a link: the document is the truth, every change makes a new one."""

import msgspec

from humble_courier.documents.link import LinkModel, LinkPart, LinkSettings
from humble_courier.domain.settings import Settings


def with_part(model: LinkModel, index: int, part: str | None) -> LinkModel:
    """Another part at `index` of the chain (beyond the end: added); None takes it out."""
    chain = list(model.chain)
    chain[index : index + 1] = [LinkPart(part=part)] if part else []
    return msgspec.structs.replace(model, chain=chain)


def with_link_part(model: LinkModel, index: int, part: LinkPart) -> LinkModel:
    """Another part at `index`, be it of the catalog or written out."""
    chain = list(model.chain)
    chain[index] = part
    return msgspec.structs.replace(model, chain=chain)


def with_inserted(model: LinkModel, index: int, part: str) -> LinkModel:
    """A part put in before `index`."""
    chain = list(model.chain)
    chain.insert(index, LinkPart(part=part))
    return msgspec.structs.replace(model, chain=chain)


def with_settings(model: LinkModel, *, computer: Settings | None = None, device: Settings | None = None) -> LinkModel:
    """Other settings at one end or both."""
    settings = LinkSettings(
        computer=str(computer) if computer else model.settings.computer,
        device=str(device) if device else model.settings.device,
    )
    return msgspec.structs.replace(model, settings=settings)


def yaml_text(model: msgspec.Struct) -> str:
    """The document as YAML for a file."""
    import yaml

    return yaml.safe_dump(msgspec.to_builtins(model), sort_keys=False, allow_unicode=True)
