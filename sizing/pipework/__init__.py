"""Pipes, fittings, friction and the route that they make together."""
