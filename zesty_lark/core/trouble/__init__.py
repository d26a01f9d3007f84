"""When it goes wrong: causes, tests, remedies."""
