"""Landing on the size: the run as it may be, how far it may go blind, and what to do next."""
