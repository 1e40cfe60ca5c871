"""The network that drives dials: slips, their compilation to a program, and the program's interpreter.

A slip is one declaration in `slips`, written in terms of the operations of `ops`. `interpret` holds the only kernel.
"""
