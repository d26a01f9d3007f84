"""What is kept: models, queries, migrations and the append-only shop log. All SQL is in here."""
