"""From the bike that stands there to the bike that is wished for."""
