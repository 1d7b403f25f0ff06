"""Decisions: what a cut does, what holds it back, where it could live, and how each number came about.

This room reads documents and calls physics; it knows no screen and opens no file.
"""
