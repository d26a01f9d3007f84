"""The part's way to all six faces: set-ups in order, relations, error chains, stock, batches, and what changed."""
