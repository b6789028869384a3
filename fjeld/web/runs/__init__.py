"""Where every cable goes."""
