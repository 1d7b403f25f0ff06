"""The real window, driven offscreen."""
