"""Finding recordings that are there more than once: candidates, evidence, groups."""
