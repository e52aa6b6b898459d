"""Lines and destinations tried on props before they are saved, and what a draft does to all props."""
