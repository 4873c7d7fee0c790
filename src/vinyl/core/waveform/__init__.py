"""Waveform data for drawing."""
