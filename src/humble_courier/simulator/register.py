"""Makes `sim://` known to pyserial."""

import serial

HANDLERS = "humble_courier.simulator.handlers"


def install() -> None:
    """From now on `serial.serial_for_url("sim://…")` opens a simulated port."""
    if HANDLERS not in serial.protocol_handler_packages:
        serial.protocol_handler_packages.append(HANDLERS)
