"""The switch banks of a device sheet: what the switches seen say, and how to set them for what is wanted."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from humble_courier.address.switches import Bank, Table, coded, hex_switches, parse_positions, seen_from
from humble_courier.documents.device import DeviceEntry, SwitchBank
from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import BadInput


@dataclass(frozen=True)
class BankView:
    """A bank with its switches in one position: what they say, what each weighs, and how they look from where one stands.

    `positions` by switch number (1 on); `seen` from left to right as seen; `numbers` the switch numbers in that order.
    """

    bank: SwitchBank
    positions: tuple[int, ...]
    says: str
    known: bool
    weights: tuple[str, ...]
    seen: tuple[int, ...]
    numbers: tuple[int, ...]
    choices: tuple[str, ...]

    @property
    def digits(self) -> str:
        """Where the arrows of rotary switches point, from the first to the last."""
        value = int("".join(map(str, self.positions)), 2)
        return f"{value:0{self.bank.width // 4}X}"


def view(bank: SwitchBank, positions: Sequence[int]) -> BankView:
    """A bank with its switches as given. Raises BadInput where their count is wrong."""
    how = coded(bank)
    try:
        says, known = str(how.read(positions)), True
    except BadInput as error:
        if len(positions) != bank.width:
            raise
        says, known = error.text, False
    numbers = tuple(range(1, bank.width + 1))
    return BankView(
        bank, tuple(positions), says, known, weights(bank), seen_from(positions, bank.upside_down),
        numbers[::-1] if bank.upside_down else numbers, choices(bank),
    )  # fmt: skip


def turned(view: BankView, number: int) -> tuple[int, ...]:
    """Positions after switch `number` was touched: over to the other side, or one digit on."""
    moved = list(view.positions)
    if not view.bank.rotary:
        moved[number - 1] = 1 - moved[number - 1]
        return tuple(moved)
    first = 4 * (number - 1)
    digit = (int(view.digits[number - 1], 16) + 1) % 16
    moved[first : first + 4] = [int(bit) for bit in f"{digit:04b}"]
    return tuple(moved)


def as_seen(bank: SwitchBank, text: str) -> tuple[int, ...]:
    """Positions as people write them down: of levers, or the digits of rotary switches. Raises BadInput."""
    if not bank.rotary:
        return parse_positions(text)
    digits = text.replace(" ", "").replace(",", "")
    try:
        value = int(digits, 16)
    except ValueError:
        value = -1
    if value < 0 or len(digits) != bank.width // 4:
        raise BadInput(f"“{text}”: expected {bank.width // 4} digits from 0 to F, the first switch first")
    return tuple(int(bit) for bit in f"{value:0{bank.width}b}")


def weights(bank: SwitchBank) -> tuple[str, ...]:
    """What each switch counts, by switch number; empty words for a table."""
    how = coded(bank)
    return tuple(str(w) for w in how.weights) if isinstance(how, Bank) else ("",) * bank.width


def choices(bank: SwitchBank) -> tuple[str, ...]:
    """What a bank can say, where that is a short list."""
    return tuple(dict.fromkeys(bank.table.values()))


def wanted(bank: SwitchBank, value: str) -> tuple[int, ...]:
    """Positions for a value. Raises BadInput where the bank cannot say it."""
    how = coded(bank)
    if isinstance(how, Table):
        return how.set_to(value.strip())
    if not value.strip().isdecimal():
        raise BadInput(f"“{value}”: expected an address, a whole number")
    return how.set_to(int(value))


def start(bank: SwitchBank, settings: Settings | None) -> tuple[int, ...]:
    """The positions that go with the settings of the link, else all off."""
    said = {"rate": settings.rate, "frame": settings.frame, "settings": settings} if settings else {}
    value = str(said.get(bank.codes))
    if value in bank.table.values():
        return wanted(bank, value)
    return (0,) * bank.width


def headline(view: BankView, device: Settings | None) -> tuple[str, str]:
    """The answer of the page: what the bank says as it stands, and whether the link has the device set so."""
    bank = view.bank
    stands = " ".join("on" if position else "off" for position in view.positions)
    if not view.known:
        return f"{bank.id} on {stands} says nothing that its table knows", view.says
    told = f"{bank.id} on {stands} says {bank.codes} {view.says}"
    said = settings_said(bank, view.says, device) if device is not None else None
    if said is None:
        return told, "Turn the switches until they look as at the device, or say what is wanted."
    alike = "as this link has it" if said == device else f"this link has {device.spoken if device else ''}"
    return told, f"The device would be set to {said.spoken}: {alike}."


def settings_said(bank: SwitchBank, says: str, old: Settings) -> Settings | None:
    """The device's settings as the bank says them; None where it codes something else."""
    if bank.codes == "rate":
        return replace(old, rate=int(says))
    if bank.codes == "frame":
        return old.with_frame(Frame.parse(says))
    return Settings.parse(says) if bank.codes == "settings" else None


def banks_of(sheet: DeviceEntry | None) -> list[SwitchBank]:
    """The banks of a sheet."""
    return list(sheet.banks) if sheet else []


@dataclass(frozen=True)
class CodedBank:
    """A bank with the address that its positions say; weights and positions from switch 1 on."""

    address: int
    positions: tuple[int, ...]
    weights: tuple[int, ...]
    range: tuple[int, int]


def coded_bank(
    address: int | None, seen: str | None, width: int | None, msb_first: bool, on_is_zero: bool, offset: int
) -> CodedBank:
    """From the wanted address to the positions, or from the positions seen to the address. Raises BadInput."""
    if (address is None) == (seen is None):
        raise BadInput("expected one of --address and --read")
    told = parse_positions(seen) if seen is not None else None
    if width is None and told is None:
        raise BadInput("expected --width: how many switches the bank has")
    bank = Bank(width or len(told or ()), msb_first, on_is_zero, offset)
    positions = told if told is not None else bank.set_to(address or 0)
    return CodedBank(bank.read(positions), positions, bank.weights, bank.range)


def rotary_positions(value: int, count: int) -> str:
    """What `count` rotary hexadecimal switches are set to for a value. Raises BadInput."""
    return hex_switches(value, count)


def as_photographed(bank: SwitchBank, seen: Sequence[int]) -> tuple[int, ...]:
    """Positions in order of switch number, from those that a picture shows from left to right."""
    return seen_from(seen, bank.upside_down)
