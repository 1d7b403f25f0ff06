"""Where a set-up chatters, and what measurements at the machine say about it."""
