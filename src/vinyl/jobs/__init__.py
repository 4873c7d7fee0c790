"""Background work: importing, analysing, packing; queues in SQLite, progress as events, cancel and resume."""
