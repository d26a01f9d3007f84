"""Angles, slots and radii."""
