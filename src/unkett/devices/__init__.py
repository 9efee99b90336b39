"""Instruments on the bench: a bridge that hands their lines to the page in front, and stand-ins that speak alike."""
