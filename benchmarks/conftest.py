"""Benchmarks print ratios against a named reference of the same run; they fail only when something is wrong, not slow."""

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
