"""Final pictures: a queue of them, made chunk by chunk by any number of workers."""
