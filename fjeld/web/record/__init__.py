"""What is kept and handed over."""
