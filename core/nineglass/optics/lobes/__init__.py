"""The responses of bands that lie atop everything or at the bottom of a stack; `trace.families.lobes` says what one is."""
