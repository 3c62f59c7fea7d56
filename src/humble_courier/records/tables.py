"""The tables. A change here needs a migration in `migrations/versions` and a new `HEAD` in `store.py`."""

from sqlalchemy import Boolean, Float, ForeignKey, Integer, LargeBinary, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Base(DeclarativeBase):
    """Common base of all tables."""


class LinkRow(Base):
    """A link: its document `link/1` as JSON. Times are seconds since the epoch."""

    __tablename__ = "links"
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    document: Mapped[str] = mapped_column(Text)
    updated: Mapped[float] = mapped_column(Float)


class VersionRow(Base):
    """A link as it was at some time; nothing is overwritten. The newest is the one that `links` holds."""

    __tablename__ = "versions"
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    link_id: Mapped[str] = mapped_column(ForeignKey("links.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(Text)
    document: Mapped[str] = mapped_column(Text)
    updated: Mapped[float] = mapped_column(Float)
    who: Mapped[str] = mapped_column(Text, server_default="")


class FactRow(Base):
    """A fact about a link. Nothing is overwritten: the newest of a subject holds."""

    __tablename__ = "facts"
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    link_id: Mapped[str] = mapped_column(ForeignKey("links.id", ondelete="CASCADE"), index=True)
    subject: Mapped[str] = mapped_column(Text)
    text: Mapped[str] = mapped_column(Text)
    provenance: Mapped[str] = mapped_column(String(16))
    source: Mapped[str] = mapped_column(Text)
    at: Mapped[float] = mapped_column(Float)
    holds: Mapped[bool] = mapped_column(Boolean)


class ProofRow(Base):
    """That a link worked: with which port, chain and settings, and what the device said of itself."""

    __tablename__ = "proofs"
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    link_id: Mapped[str] = mapped_column(ForeignKey("links.id", ondelete="CASCADE"), index=True)
    at: Mapped[float] = mapped_column(Float)
    port: Mapped[str] = mapped_column(Text)
    adapter: Mapped[str] = mapped_column(Text)
    chain: Mapped[str] = mapped_column(Text)
    computer_settings: Mapped[str] = mapped_column(Text)
    device_settings: Mapped[str] = mapped_column(Text)
    identity: Mapped[str] = mapped_column(Text)
    facts: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text, server_default="answered")
    grade: Mapped[str] = mapped_column(Text, server_default="strong")
    reason: Mapped[str] = mapped_column(Text, server_default="")
    serial: Mapped[str] = mapped_column(Text, server_default="")
    socket: Mapped[str] = mapped_column(Text, server_default="")
    who: Mapped[str] = mapped_column(Text, server_default="")
    words: Mapped[list["WordRow"]] = relationship(order_by="WordRow.id", cascade="all, delete-orphan")


class WordRow(Base):
    """One thing said, by us or by the device: bytes, and which of them came with an error."""

    __tablename__ = "words"
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    proof_id: Mapped[int] = mapped_column(ForeignKey("proofs.id", ondelete="CASCADE"), index=True)
    at: Mapped[float] = mapped_column(Float)
    who: Mapped[str] = mapped_column(String(8))
    data: Mapped[bytes] = mapped_column(LargeBinary)
    doubtful: Mapped[str] = mapped_column(Text)
    meaning: Mapped[str] = mapped_column(Text)


class ContentRow(Base):
    """What is in a kept file, by the name of its content; only where the records lie on a server."""

    __tablename__ = "contents"
    id: Mapped[str] = mapped_column(String(80), primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)


class SettingRow(Base):
    """Where the program was left: the current link and the open stage."""

    __tablename__ = "settings"
    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    value: Mapped[str] = mapped_column(Text)
