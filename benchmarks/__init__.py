"""Speed as ratios and guarantees, each measured in one run: `./run bench [name ...]`."""
