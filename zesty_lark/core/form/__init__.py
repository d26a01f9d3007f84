"""Angles, slots and radii (handbook: angles, slots, radii)."""
