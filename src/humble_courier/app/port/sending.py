"""The authority over sending, for the window and for commands: both are roots that make one and hand it on."""

from humble_courier.port.authority import Authority as Authority
from humble_courier.port.authority import SendingNow as SendingNow
