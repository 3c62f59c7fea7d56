"""Modbus: functions, exceptions and what a message says, whichever way it is put on the line.

Source: MODBUS Application Protocol Specification V1.1b3, 6 (functions) and 7 (exceptions); from memory.
"""

from humble_courier.protocols.framer import Event, Made
from humble_courier.protocols.spec import plainly

LONGEST_FRAME = 256  # bytes, address and CRC included (Serial Line V1.02, 2.5.1)
EXCEPTIONS = {
    1: "illegal function", 2: "illegal data address", 3: "illegal data value", 4: "server device failure",
    5: "it is still at it", 6: "it is busy", 8: "memory parity error", 10: "it has no way there", 11: "no answer behind it",
}  # fmt: skip

GATEWAYS = (10, 11)  # these exceptions come from a gateway, not from the unit
FUNCTIONS = {
    1: "read coils", 2: "read discrete inputs", 3: "read holding registers", 4: "read input registers", 5: "write one coil",
    6: "write one register", 7: "read exception status", 8: "diagnostics", 11: "event counter", 15: "write coils",
    16: "write registers", 17: "report identity", 22: "mask register", 23: "read and write registers",
    43: "device identification",
}  # fmt: skip
WRITES = (5, 6, 15, 16, 22, 23)  # functions that change something in the device


def told(body: bytes, size: int) -> Made:
    """What a sound frame says: `body` without CRC or LRC; `size`: of the RTU frame."""
    unit, function = body[0], body[1]
    fields = {"unit": unit, "function": function & 0x7F, "what": FUNCTIONS.get(function & 0x7F, "of its own kind")}
    if function & 0x80:
        why = EXCEPTIONS.get(body[2], f"code {body[2]}") if len(body) > 2 else "no code"
        code = body[2] if len(body) > 2 else None
        told = (
            f"a gateway answers for unit {unit}: {why}" if code in GATEWAYS else f"unit {unit} is there but refuses: {why}"
        )
        return Made("exception", True, {**fields, "code": code}, told)
    if function in (1, 2, 3, 4) and size == 8 and not (body[2] == 3 and function in (1, 2)):
        first, count = int.from_bytes(body[2:4], "big"), int.from_bytes(body[4:6], "big")
        return Made("request", True, {**fields, "first": first, "count": count})
    if function in (3, 4) and len(body) > 2 and len(body) == 3 + body[2] and body[2] % 2 == 0:
        values = [int.from_bytes(body[i : i + 2], "big") for i in range(3, len(body), 2)]
        return Made("answer", True, {**fields, "values": values})
    if function in WRITES:
        return Made("write", True, {**fields, "hex": body[2:].hex(" ").upper()}, "changes something in the device")
    return Made("frame", True, {**fields, "hex": body[2:].hex(" ").upper()})


def sentence(event: Event) -> str:
    """A message in a few words."""
    f = event.fields
    if event.kind == "answer" and "values" in f:
        return f"unit {f['unit']}: {', '.join(map(str, f['values']))}"
    if event.kind == "request":
        return f"asks unit {f['unit']} to {f['what']}"
    return plainly(event)
