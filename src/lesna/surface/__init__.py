"""A part of triangles and the tool over it: faces, exact drops, spacing, lines, contours, rings, and how far a tool sticks out."""
