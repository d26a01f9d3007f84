"""The process: springs, and the schools of taking stock off."""
