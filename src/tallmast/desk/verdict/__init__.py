"""The Verdict: which antenna, how sure, by how much."""
