"""The job document: what was told, its answers, the route made of its legs."""
