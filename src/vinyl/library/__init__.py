"""The collection in SQLite: plain SQL, undo, and the rule of which value wins."""
