"""Station Naming: the house's rule for a prop's name."""

from plindro.core.naming.names import clean_name, unique_names
from plindro.core.naming.settings import NamingSettings
from plindro.core.naming.station import run

__all__ = ["NamingSettings", "clean_name", "run", "unique_names"]
