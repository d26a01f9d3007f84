"""Instruments: where their readings come from, and the simulated gauge."""
