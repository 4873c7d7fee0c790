"""Rules of the job that users set."""
