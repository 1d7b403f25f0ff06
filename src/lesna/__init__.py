"""Lesna: what a milling cut does, what holds it back, and what to set.

The rooms of the package and the direction of its imports are described in ARCHITECTURE.md.
"""

__version__ = "0.1.0"
