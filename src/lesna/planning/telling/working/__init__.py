"""How each number came about, by subject; the row of a figure names its own."""
