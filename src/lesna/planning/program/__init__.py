"""Somebody's NC program against a cut of the job: what the tool sees along it, how long it takes, and which feeds are better."""
