"""Shipped tables with their provenance, fonts, icons and the demo jobs; a shop's own tables on top."""
