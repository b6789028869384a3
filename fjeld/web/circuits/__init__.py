"""What works what, and on which breaker."""
