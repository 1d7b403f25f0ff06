"""The job being edited: changes that check before they happen, and tell whoever listens. No Qt, no SQL."""
