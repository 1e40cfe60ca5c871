"""Substances, curves, and files that people put in."""
