"""What opens below the line or from the rail: a folder a stage, with its stage, its desk and its pages."""
