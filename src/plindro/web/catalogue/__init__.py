"""The house's own lines and destinations, and the rules that choose a line."""
