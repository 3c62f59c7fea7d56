"""Facts of the trade as data: connectors, levels, ports, parts, devices. Files in `data/`, each entry with its source."""
