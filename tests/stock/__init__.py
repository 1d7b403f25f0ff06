"""Tests of the room stock."""
