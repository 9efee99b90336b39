"""Benchmarks: `./unkett bench` prints JSON. Ratios are taken within one run, since machines are noisy."""
