"""Tests of programs against cuts."""
