"""Materials with their revisions, and proofs."""
