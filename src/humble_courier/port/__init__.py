"""The one road to a port: opened listen-only, a session that decides, one driver that moves bytes, a log of every byte."""
