"""People: signing in, one-time links, their settings."""
