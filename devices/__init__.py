"""Stand-ins for a site's devices: level, flow, pressure and power over HTTP on loopback."""
