"""Proof by simulation: two engines that know nothing of each other look at the planned wiring."""
