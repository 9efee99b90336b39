"""What comes in and goes out as text: build files, their schema, and what a hand types."""
