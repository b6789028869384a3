"""The network tried before it is energized."""
