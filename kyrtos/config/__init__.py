"""Settings, addresses, middleware and the queue of background work."""
