"""The steps of the route, one module each."""
