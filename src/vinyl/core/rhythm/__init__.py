"""Beats, bars and tempo."""
