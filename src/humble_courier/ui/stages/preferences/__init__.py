"""Preferences: the screen, where records live, what is usual at the site, which school of the trade."""
