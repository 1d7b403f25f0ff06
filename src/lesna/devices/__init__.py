"""Simulated stand-ins for measuring devices, behind the interface that a real one would have."""
