"""A job: a plan and the look-over's defects as ordered steps, and the days on which they are done."""
