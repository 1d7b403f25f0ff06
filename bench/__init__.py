"""Benchmarks: they print JSON lines, ratios first; nothing is asserted."""
