"""Every act that changes the work, each one function with all its rules: what pages, API, files and demo call."""
