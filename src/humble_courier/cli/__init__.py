"""The command line: each command asks `app` and prints; `--json` prints one JSON document."""
