"""The demonstration workshop: its people, catalogue, bikes and plans."""
