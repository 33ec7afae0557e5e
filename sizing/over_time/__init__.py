"""What runs over time on a job: the simulation, and the scenarios that use it."""
