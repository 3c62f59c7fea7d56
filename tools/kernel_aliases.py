"""Holds the shipped list of aliases against a kernel's own modules: which ids its serial drivers claim.

    apt-get download linux-image-6.1.0-56-amd64 && dpkg-deb --fsys-tarfile linux-image-*.deb | tar x ./lib/modules
    python -m tools.kernel_aliases FOLDER [--write]          (FOLDER holds lib/modules; depmod of kmod reads them)

Prints what only one of the two has; exit code 1 where the list lacks something. With `--write` the list is written anew.
"""

import subprocess
import sys
from pathlib import Path

LIST = Path(__file__).parent.parent / "src/humble_courier/catalog/data/linux-6.1-usb-serial.modules.alias"
ROOMS = ("kernel/drivers/usb/serial/", "kernel/drivers/usb/class/cdc-acm")


def claimed(folder: Path) -> set[str]:
    """Alias lines of the serial drivers of the one kernel in a folder. Raises SystemExit where there is none."""
    versions = sorted((folder / "lib" / "modules").glob("*/kernel"))
    if len(versions) != 1:
        raise SystemExit(f"{folder}/lib/modules holds {len(versions)} kernels: unpack one")
    version = versions[0].parent
    subprocess.run(["depmod", "-b", str(folder), version.name], check=True)
    made = (version / "modules.alias").read_text()
    ours = {path.name.partition(".")[0].replace("-", "_") for path in version.rglob("*.ko*")
            if str(path.relative_to(version)).startswith(ROOMS)}  # fmt: skip
    return {line for line in made.splitlines() if line.startswith("alias usb:") and line.split()[2] in ours}


def main() -> None:
    """Compare, or write."""
    if len(sys.argv) < 2:
        raise SystemExit(__doc__)
    theirs = claimed(Path(sys.argv[1]))
    ours = {line for line in LIST.read_text().splitlines() if line.startswith("alias ")}
    for line in sorted(theirs - ours):
        print(f"only in the kernel: {line}")
    for line in sorted(ours - theirs):
        print(f"only in the list: {line}")
    print(f"{len(theirs & ours)} alike, {len(theirs - ours)} only in the kernel, {len(ours - theirs)} only in the list")
    if "--write" in sys.argv:
        LIST.write_text("".join(f"{line}\n" for line in sorted(theirs)))
    elif theirs - ours:
        raise SystemExit(1)


if __name__ == "__main__":
    main()
