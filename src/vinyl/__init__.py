"""Vinyl: a DJ's home work, from a folder of audio to the gig."""

__version__ = "0.1.0"
