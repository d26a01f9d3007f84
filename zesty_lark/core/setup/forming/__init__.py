"""Setting up for slots, angles and edges: drawn where they lie on the block, and as they stand on the machine."""
