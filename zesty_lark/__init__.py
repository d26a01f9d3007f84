"""Zesty Lark: planner, calculator and logbook for surface grinding machinists."""

__version__ = "0.1.0"
