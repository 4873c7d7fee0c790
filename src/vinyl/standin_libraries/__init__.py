"""The stand-ins for other programs: they read libraries as those would, and know nothing of Vinyl.

Each reader yields a track in the same plain form, in the units of its own format: its path, words, steps,
points and tags.
"""
