"""Faces of the step Bank."""
