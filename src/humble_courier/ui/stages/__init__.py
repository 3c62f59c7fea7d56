"""One module a stage: what opens below the line."""
