"""The suspension of a bike: both ends as they are set, what to try next, what is felt, a card to take home."""
