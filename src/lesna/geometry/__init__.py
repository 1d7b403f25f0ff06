"""Shapes of tools, holders, parts and features, in millimetres."""
