"""The cut: every formula of it, once, and the materials it is made in."""
