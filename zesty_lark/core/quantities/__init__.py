"""Lengths, angles and other quantities: exact, checked, read from what people type, and doubted where it seems off."""
