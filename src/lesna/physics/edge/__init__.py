"""What happens at the edge: engagement, chip, forces over a turn and over a map, room for chips."""
