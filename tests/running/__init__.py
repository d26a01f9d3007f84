"""Tests of what starts, watches and keeps."""
