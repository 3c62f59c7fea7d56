"""A profile for each place: which adapter a link was used with, so that it is found again under whatever number."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from humble_courier.host.kinds import HostPort
from humble_courier.host.ports import list_ports

if TYPE_CHECKING:
    from humble_courier.records.store import Store

NETWORK = ("socket://", "rfc2217://")  # addresses of device servers, as pyserial writes them


class Profile(msgspec.Struct, frozen=True):
    """How a link was opened at its place: address, what the adapter says of itself, its socket, the settings, when."""

    address: str
    settings: str
    at: float
    driver: str | None = None
    vid: str | None = None
    pid: str | None = None
    serial: str | None = None
    socket: str | None = None
    interface: str | None = None

    def found(self, ports: Sequence[HostPort]) -> tuple[HostPort | None, bool]:
        """Where that adapter is now, and whether it is surely that one: by serial number, or by kind and socket.

        One of the same kind in another socket is a guess, made only where there is no other of the kind.
        """
        if self.vid is None:
            return next((p for p in ports if p.address == self.address), None), True
        alike = [
            p for p in ports if p.usb and (p.usb.vid, p.usb.pid, p.usb.interface) == (self.vid, self.pid, self.interface)
        ]
        same = [p for p in alike if p.usb and p.usb.serial == self.serial]
        if self.serial is not None:
            return (same[0], True) if len(same) == 1 else self._by_socket(same)
        return self._by_socket(same)

    def _by_socket(self, ports: Sequence[HostPort]) -> tuple[HostPort | None, bool]:
        here = next((p for p in ports if p.usb and p.usb.path == self.socket), None)
        if here is not None:
            return here, True
        return (ports[0], False) if len(ports) == 1 else (None, False)


def profile_of(port: HostPort, settings: str, at: float) -> Profile:
    """The profile of a port as it is at a moment, in seconds since the epoch."""
    usb = port.usb
    known = (usb.vid, usb.pid, usb.serial, usb.path, usb.interface) if usb else (None,) * 5
    return Profile(port.address, settings, at, port.driver, *known)


def load_profile(store: "Store", link_id: str) -> Profile | None:
    """The profile of a link's place; None where there is none yet."""
    return store.struct(f"profile:{link_id}", Profile)


def save_profile(store: "Store", link_id: str, profile: Profile) -> None:
    """Keep the profile of a link's place."""
    store.remember(f"profile:{link_id}", msgspec.json.encode(profile).decode())


def told_again(profile: Profile | None, ports: Sequence[HostPort]) -> str:
    """What the profile says about this moment, in a sentence; empty where it says nothing new."""
    if profile is None:
        return ""
    port, sure = profile.found(ports)
    if port is None:
        number = f"serial number {profile.serial}" if profile.serial else f"last in socket {profile.socket}"
        return f"The adapter of this place ({profile.driver or 'no driver named'}, {number}) is not plugged in."
    if port.address == profile.address:
        return f"{port.address} is the adapter of this place." if sure else ""
    doubt = "" if sure else " It has no serial number and is in another socket: pull its plug to be sure."
    return f"The adapter of this place is {port.address} now; it was {profile.address}.{doubt}"


def network_addresses(store: "Store") -> set[str]:
    """Addresses of device servers that links in the records use."""
    models = (store.link(link_id) for link_id, _ in store.links())
    return {model.address for model in models if model and model.address and model.address.startswith(NETWORK)}


def link_at(store: "Store", port: HostPort) -> tuple[str, str] | None:
    """Id and name of the link that was last opened with the adapter of this port; None where there is none."""
    if port.usb is None:
        return None
    names = dict(store.links())
    kept = [(profile.at, link_id) for link_id in names if (profile := load_profile(store, link_id)) is not None
            and profile.found([port]) == (port, True)]  # fmt: skip
    return (max(kept)[1], names[max(kept)[1]]) if kept else None


def _latency_key(port: HostPort) -> str:
    usb = port.usb
    return f"latency:{usb.vid}:{usb.pid}:{usb.serial or usb.path}" if usb else f"latency:{port.address}"


def old_latency(store: "Store", port: HostPort) -> int | None:
    """The latency timer (ms) that an adapter had before this program changed it; None where it was left alone."""
    return store.struct(_latency_key(port), int)


def keep_latency(store: "Store", port: HostPort, old: int, new: int) -> None:
    """Keep the value before the first change; forget it when it is put back."""
    first = old_latency(store, port)
    store.remember(_latency_key(port), None if new == first else str(old if first is None else first))


def again(store: "Store", link_id: str, address: str) -> str | None:
    """Where the adapter of a link is at this moment: its old address, or another number; None while it is not there."""
    if "://" in address:
        return address  # a device server: opening it tells
    ports = list_ports()
    profile = load_profile(store, link_id)
    found, surely = profile.found(ports) if profile is not None else (None, False)
    if found is not None and surely:
        return found.address
    # A link in /dev/serial, a name that stays, a pty: none is in the list, and each is there where its file is.
    listed = any(port.address == address for port in ports)
    mine = profile is None or profile.vid is None
    return address if (listed and mine) or (not listed and Path(address).exists()) else None


class PortProfiles:
    """What the records know of the port of one link and of its adapter."""

    def __init__(self, store: "Store", link_id: str) -> None:
        self._store, self._id = store, link_id

    def again(self, address: str) -> str | None:
        """Where the adapter of this link is at this moment; None while it is not there."""
        return again(self._store, self._id, address)

    @property
    def profile(self) -> Profile | None:
        """How the link was opened at its place; None where it was not yet."""
        return load_profile(self._store, self._id)

    def chosen(self, port: HostPort, settings: str, at: float) -> None:
        """The port was chosen: keep which adapter it is."""
        save_profile(self._store, self._id, profile_of(port, settings, at))

    def told(self, ports: Sequence[HostPort]) -> str:
        """What the profile says about this moment, in a sentence; empty where it says nothing new."""
        return told_again(self.profile, ports)

    def old_latency(self, port: HostPort) -> int | None:
        """The latency timer (ms) that the adapter had before this program changed it; None where it was left alone."""
        return old_latency(self._store, port)

    def keep_latency(self, port: HostPort, old: int, new: int) -> None:
        """Keep the value before the first change; forget it when it is put back."""
        keep_latency(self._store, port, old, new)

    def network(self, address: str) -> tuple[str, ...]:
        """Addresses of device servers: this one, where it is one, and those of all links in the records."""
        return tuple(sorted(a for a in {address, *network_addresses(self._store)} if a.startswith(NETWORK)))
