"""The web application: Django around the core."""
