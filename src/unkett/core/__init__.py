"""What Unkett knows about bicycles. No web, no database, no network: typed values and pure functions."""
