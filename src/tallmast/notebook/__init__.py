"""The records, and the one SQLite file that keeps them, history included."""

import os

# pydantic looks through every installed package for plugins when it is first imported; we have none, and start-up
# need not pay for the search.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
