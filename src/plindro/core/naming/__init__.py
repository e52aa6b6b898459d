"""Station Naming: the house's rule for a prop's name."""

from plindro.core.naming.settings import NamingSettings
from plindro.core.naming.station import VERSION, house_name, run

__all__ = ["VERSION", "NamingSettings", "house_name", "run"]
