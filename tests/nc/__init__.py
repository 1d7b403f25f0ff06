"""Tests of the room nc."""
