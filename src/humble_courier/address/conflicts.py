"""What speaks against a plan."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Conflict:
    """A published code, the place in the plan, and the reason in words. `costs_only`: it works, but slower."""

    code: str
    where: str
    text: str
    costs_only: bool = False
