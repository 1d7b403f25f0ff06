"""A freeform surface: its part, what is decided for it, the path that is made and the proof of what any program leaves."""
