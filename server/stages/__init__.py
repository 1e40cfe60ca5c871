"""Stages: form, lamps, surround and camera, used with any material."""
