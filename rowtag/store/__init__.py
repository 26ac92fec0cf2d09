"""Keeping studies: one SQLite file each, states as deltas, every accepted step on disk before the reply."""
