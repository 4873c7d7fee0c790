"""A walk through all rooms of a real server, at random and with everything looked at after each step."""
