"""Materials that go out to other programs, and that come in from them, each with a report of what became of them."""
