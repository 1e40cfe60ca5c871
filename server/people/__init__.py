"""People together: what is shared with whom, comments on proofs, who is at a material."""
