"""What the worker does for customers: found here by the queue."""

from kyrtos.customers.forgetting import forget_customer

__all__ = ["forget_customer"]
