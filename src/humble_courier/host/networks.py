"""The network addresses of this computer, as the `ip` program of iproute2 tells them."""

import json
import subprocess

TIMEOUT_S = 2.0  # the command answers at once; longer means that it hangs


def addresses() -> list[tuple[str, str]]:
    """Network sockets with their addresses, as (`eth0`, `192.0.2.7/24`); empty where nothing tells them."""
    try:
        told = subprocess.run(["ip", "-json", "address"], capture_output=True, timeout=TIMEOUT_S, check=True).stdout
        return read(told)
    except (OSError, subprocess.SubprocessError):
        return []


def read(told: bytes) -> list[tuple[str, str]]:
    """The answer of `ip -json address`; loop-back and what is no JSON left out."""
    try:
        rows = json.loads(told)
    except ValueError:
        return []
    return [
        (str(row["ifname"]), f"{info['local']}/{info['prefixlen']}")
        for row in rows
        if "LOOPBACK" not in row.get("flags", ())
        for info in row.get("addr_info", ())
        if "local" in info and info.get("scope") == "global"
    ]
