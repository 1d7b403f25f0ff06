"""Records shown and edited whole: the shop's library, and what one job changes of a row."""
