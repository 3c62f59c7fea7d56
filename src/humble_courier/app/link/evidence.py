"""What the session of a link has shown so far: the port opened or refused, what was heard, who answered."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from humble_courier.app.link.shown import Tally
from humble_courier.app.talk.traffic import Traffic
from humble_courier.domain.proven import Shown
from humble_courier.domain.text import Terminator
from humble_courier.errors import Refusal
from humble_courier.exchange.verdict import ExchangeState
from humble_courier.procedures.device_search.found import Found
from humble_courier.protocols.spec import ProtocolSpec

News = list[tuple[str, str]]


@dataclass(frozen=True)
class Reply:
    """An answer that no sheet knows, to words that were said at `asked_at`; `alike`: how often it came just so."""

    words: str
    answer: str
    asked_at: float
    alike: int
    state: ExchangeState = ExchangeState.REPLIED
    sent: bytes = b""

    @property
    def may_be_right(self) -> bool:
        """Whether a person may call it right: what refuses, acknowledges or only waits is no answer."""
        return self.state in (ExchangeState.ANSWERED, ExchangeState.REPLIED, ExchangeState.LATE)


@dataclass(frozen=True)
class Silence:
    """A line of plain text that had time enough, and nothing came; with its end, and all ends that were tried."""

    words: str
    end: Terminator
    tried: frozenset[Terminator] = frozenset()


@dataclass
class Evidence:
    """Facts of this session; begun anew when the wiring, the settings or the port change."""

    opened: bool = False  # at least once
    port_open: bool = False  # at this moment
    refusal: str = ""  # why the port could not be opened, or is gone
    remedy: str = ""
    refused: Refusal | None = None  # the same, for what is decided by it
    lost: bool = False  # it was open and vanished
    refusals: int = 0  # one after another
    silence: Silence | None = None
    end: Terminator | None = None  # with which words were answered that had brought nothing with another
    asking: str = ""  # what was said last, while its answer may still come
    since: float | None = None  # when the words before were said, while the session has not yet taken the new ones
    unanswered: frozenset[str] = frozenset()  # first words that were said, and nothing came within their time
    heard: Traffic = Traffic.NOTHING
    greeting: dict[str, str] | None = None
    shown: Shown | None = None  # what proves the link
    reply: Reply | None = None
    adapter: dict[str, str] = field(default_factory=dict)  # what an adapter of its own said, with the device behind it
    gateway: str = ""  # what a gateway said in place of the unit
    tally: Tally | None = None  # of what is said by itself
    asked_at: float | None = None
    answer_ms: float | None = None
    proof_kept: bool = False
    echoed: str = ""  # the words said last, where nothing but these came back
    by_judge: bool = False  # what is shown follows from the exchanges themselves, and may be taken back by later ones
    marked: frozenset[bytes] = frozenset()  # words whose answer a person called right
    chain: tuple[str, ...] = ()  # the parts as they were drawn when that was shown
    searching: bool = False  # a search is under way at its port
    found: Found | None = None  # by a search, and not gone on with yet
    searched: bool = False  # a search has gone through all it knows, and found nothing
    reached: bool = False  # a search got an answer with this chain: the drawing is what is doubted
    suggested: str = ""  # words to which the search got its answer
    spoken: ProtocolSpec | None = None  # the protocol that it looks like
    guessed_at: int = 0
    likelier: str = ""  # settings that what is garbled speaks for
    judged_at: int = 0
    ready_at: float = 0.0  # seconds since the epoch: until then the device starts up, and what is sent may stop it

    def ready_in_s(self, now: float) -> float:
        """Seconds until the device may be spoken to, as its sheet says; 0 once it may."""
        return max(0.0, self.ready_at - now)

    def of_the_port(self, with_proof: bool) -> "Evidence":
        """What stays when settings, sheet or unit are others: how the port is; `with_proof`: what was shown too."""
        kept = ("opened", "port_open", "refusal", "remedy", "refused", "lost", "refusals", "searching")
        shown = ("shown", "chain", "heard", "proof_kept", "reply", "by_judge", "marked") if with_proof else ()
        return Evidence(**{name: getattr(self, name) for name in (*kept, *shown)})

    @property
    def proven(self) -> bool:
        """Whether the link has carried meaning."""
        return self.shown is not None

    @property
    def identity(self) -> Mapping[str, str]:
        """What the device said of itself, by name; empty while nothing is proven."""
        return self.shown.identity if self.shown is not None else {}
