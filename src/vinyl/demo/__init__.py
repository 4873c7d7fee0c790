"""The demo collection: synthesised music of a made-up harbour town and its resident DJ."""
