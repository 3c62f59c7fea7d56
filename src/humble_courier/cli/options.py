"""Options that several commands share."""

from pathlib import Path
from typing import Annotated

import typer

Json = Annotated[bool, typer.Option("--json", help="One JSON document on standard output.")]
LinkFile = Annotated[Path, typer.Argument(help="A link/1 document.")]
Address = Annotated[str, typer.Argument(help="/dev/ttyUSB0, socket://…, rfc2217://…, sim://bench/DEVICE")]
SettingsText = Annotated[str, typer.Option("--settings", help="RATE,FRAME[,HANDSHAKE] of this end.")]
