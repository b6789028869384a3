"""What to buy and cut."""
