"""What happens over time: exact from event to event, every result one Timeline."""
