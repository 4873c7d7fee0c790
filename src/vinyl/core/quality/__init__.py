"""Whether a recording is what its file says: bandwidth, clipping, silence, channels."""
