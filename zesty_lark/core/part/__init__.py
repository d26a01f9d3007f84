"""The part: its print, its surfaces by kind, sizes and stock, and in which order its faces come."""
