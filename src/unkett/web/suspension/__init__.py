"""The suspension record of a bike: what was set and read at each end, when, by whom and why."""
