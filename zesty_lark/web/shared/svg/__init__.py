"""Drawings as SVG, made on the server from core data: the same picture on screen, on paper and in a PDF."""
