"""Stores as earlier versions left them: each must open, with everything in it, in every version after it."""
