"""Measuring and deciding."""
