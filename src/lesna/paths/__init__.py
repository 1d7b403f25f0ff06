"""Toolpath generators, one file each, and their entries and links."""
