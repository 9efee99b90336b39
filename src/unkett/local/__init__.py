"""What the launcher does once Python is there: private PostgreSQL, set-up, server, tests."""
