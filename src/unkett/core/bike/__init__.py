"""A bike worked out from its parts: readings, points in space, lines, figures and what a change moves."""
