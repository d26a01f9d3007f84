"""When it goes wrong: causes, tests, remedies (handbook: when it goes wrong)."""
