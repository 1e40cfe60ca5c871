"""Open formats, in and out: one file a format, under `FORMAT`. What is read comes from outside, so it is read in a child process (`put_in`).

What is written and what was read each have a report (`report`): what went over exactly, what comes near, what was left out, what has to be set.
"""
