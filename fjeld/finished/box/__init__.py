"""What is in a box that is there already: what each cable in it can be, and which reading tells."""
