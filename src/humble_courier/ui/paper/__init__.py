"""On paper: link sheet, build sheet, label."""
