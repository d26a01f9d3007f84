"""The rack: a wheel's life from its first mounting to its end, as a log that is folded."""
