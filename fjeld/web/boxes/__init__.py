"""Every box made up."""
