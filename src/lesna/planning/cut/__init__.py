"""From a cut's records to its Result: numbers for physics, one computation, limits, time and money."""
