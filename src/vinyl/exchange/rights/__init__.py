"""Lists of rights, in which it is looked up whether a track may be published within a recording."""
