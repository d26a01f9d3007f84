"""The shop log's meaning: what its entries say, where the work stands, how the story is told."""
