"""NC programs: read to motion, written back with other feeds; every byte that is not a feed stays as it was."""
