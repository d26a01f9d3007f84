"""Surface maps as files: CSV, JSON, XLSX and X3P, out and in."""
