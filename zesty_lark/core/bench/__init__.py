"""The bench: one set-up laid out on the chuck, what it comes to, and what is to be done before the wheel touches."""
