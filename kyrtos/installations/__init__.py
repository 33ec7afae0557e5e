"""Every pump that stands somewhere: handed over, read, serviced, replaced; how long they last."""
