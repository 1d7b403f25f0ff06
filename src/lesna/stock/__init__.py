"""The stock as a height map, and what a cutter meets in it along a path."""
