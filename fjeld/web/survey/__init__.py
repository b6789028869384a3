"""Walking the walls."""
