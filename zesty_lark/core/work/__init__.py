"""The work model: the print, its pieces, set-ups and loads, the log, where the work stands and what comes next."""
