"""What ends an edge: heat, hardness of the work, edge life and the speeds that follow from it."""
