"""The command line: one file per noun. It knows the core, never the desktop."""
