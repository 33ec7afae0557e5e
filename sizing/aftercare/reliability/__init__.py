"""How long pumps last and what a year of one costs, from those that failed and those that run."""
