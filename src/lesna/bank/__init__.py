"""What the shop keeps of its trials and proven cuts, for every seat: a store with history (SQLite file or a server).

The only room with SQL. It hands out records of `model` and takes them back; what they teach is computed in `learning`.
"""
