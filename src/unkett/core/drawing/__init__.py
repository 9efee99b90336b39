"""Pictures as values: shapes with roles, in millimetres or plain units, y downwards. No SVG text."""
