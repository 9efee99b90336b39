"""Calculations, one module per family. `registry` gathers them all; a rule imports only what it uses."""
