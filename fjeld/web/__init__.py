"""The web application: screens, accounts and storage around the core."""
