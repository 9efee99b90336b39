"""The demonstration: Ferry Yard Cycle Works on the invented island of Skerrow."""
