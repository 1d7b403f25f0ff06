"""The step Trial in parts: ladder, edge, log, charts, the coach's card, pictures with a caliper."""
