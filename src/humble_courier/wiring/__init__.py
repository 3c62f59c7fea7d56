"""The wiring of a link: contacts joined into nets, what each net means, and whether the link can work."""
