"""A citizen of the desktop: menu entry, icon, kinds of file, put where this person's other programs have theirs."""
