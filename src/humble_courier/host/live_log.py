"""The kernel log of this machine as it is now, where the system lets us read it. Read only."""

import subprocess

from humble_courier.errors import MachineRefused

WAIT_S = 10.0  # the log of weeks is printed in less; longer means that the command hangs
COMMANDS = (("dmesg",), ("journalctl", "-k", "-b", "-o", "short-monotonic", "--no-pager"))


def live_log() -> str:
    """What dmesg says, else what the journal says. Raises MachineRefused where neither may be read."""
    for command in COMMANDS:
        try:
            done = subprocess.run(command, capture_output=True, timeout=WAIT_S, check=False)
        except (OSError, subprocess.TimeoutExpired):
            continue
        if done.returncode == 0 and done.stdout:
            return done.stdout.decode("utf-8", "replace")
    remedy = "Let an administrator read it: sudo dmesg > log.txt; then paste it here"
    raise MachineRefused("the kernel log may not be read by this user", remedy)
