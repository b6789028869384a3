"""What follows from a plan and is asked of it by checks, by proposals and by screens: once, here."""
