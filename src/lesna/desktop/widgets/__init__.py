"""Parts that workspaces are made of; each shows one thing."""
