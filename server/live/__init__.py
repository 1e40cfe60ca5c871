"""The live picture: a renderer process of its own, its supervisor, and a WebSocket for each open bench.

`renderer` runs in the child process and imports the core alone; `supervisor` starts it, feeds it and starts it again when it dies.
"""
