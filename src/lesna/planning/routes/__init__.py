"""Which way a cut is made, how it is fed and how long it takes: without a program, and before one is there."""
