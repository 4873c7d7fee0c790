"""What a user does: one function for each thing, with the name under which it can be undone.

Routers, the command line and jobs call these; which topics tell of a change is derived from the tables that
it touches.
"""
