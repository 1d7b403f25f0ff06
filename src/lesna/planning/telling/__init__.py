"""What is said about a Result: cautions, readiness, how a number came about, verdicts."""
