"""Setting up: one set-up laid out on the chuck, what it comes to, and what is done before the wheel touches."""
