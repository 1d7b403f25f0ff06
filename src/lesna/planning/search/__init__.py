"""Better points: the engagement map, the optimum of a task, and single changes that would buy more."""
