"""Tests of what stands between the screens and the core."""
