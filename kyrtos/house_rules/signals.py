"""Told to whoever rests on the house rules; ``shop`` says whose they are."""

from django.dispatch import Signal

rules_changed = Signal()
