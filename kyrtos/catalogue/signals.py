"""Told to whoever rests on a catalogue; ``shop`` says whose it is."""

from django.dispatch import Signal

catalogue_published = Signal()
