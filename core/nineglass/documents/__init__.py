"""Typed documents: material, stage, settings. They are what is saved, sent, exported and rendered.

May import describe and the declarations of kinds (bands, slips, forms, lamps); never a kernel.
A new version of a format is a migration that reports what it changed.
"""
