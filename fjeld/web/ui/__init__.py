"""What every screen is made of: frame, floor, figures, and what goes over the wire."""
