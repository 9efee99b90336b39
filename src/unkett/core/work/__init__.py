"""A job: a plan and the inspection's defects as ordered steps, and the days on which they are done."""
