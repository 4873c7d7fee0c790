"""The stand-in for a standalone player at the gig: it knows the stick's documented format and nothing else of
Vinyl.
"""
