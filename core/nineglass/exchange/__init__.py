"""Open formats, in and out: one file a format. What is read comes from outside, so it is read in a child process (`put_in`)."""
