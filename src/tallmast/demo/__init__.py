"""The made-up campaign of the Harrow Skerries Tide Watch: a known truth, and the evidence generated from it."""
