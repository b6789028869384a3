"""Speed, measured as ratios within one run: machines are noisy, ratios less so."""
