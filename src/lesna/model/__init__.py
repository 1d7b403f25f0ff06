"""The documents: what a job, a cut, a tool, a holder, a machine and a material are."""
