"""The records, and the one SQLite file that keeps them, history included."""
