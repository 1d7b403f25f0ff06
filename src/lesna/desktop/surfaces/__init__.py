"""The step Surface: the part as it is seen, the picture of its slopes, what was decided, and what is left."""
