"""The schools of roughing on one feature: strategies, their comparison, tools ranked for it, book beside model."""
