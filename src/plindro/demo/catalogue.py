"""The demo's props by file name, and how each is built."""

from importlib import import_module

from plindro.demo.export import export_model

DEMO_PROPS: dict[str, str] = {
    "fog_bell": "fog_bell",
    "signal_lamp": "signal_lamp",
    "mooring_bollard": "mooring_bollard",
    "channel_buoy": "channel_buoy",
    "rope_coil": "rope_coil",
    "weather_vane": "weather_vane",
    "cable_drum": "cable_drum",
    "davit": "davit",
    "barometer": "barometer",
    "gas_bottle": "gas_bottle",
    "storm làntern 01": "storm_lantern",
    "tide_board": "tide_board",
    "life_ring": "life_ring",
    "oil_can": "oil_can",
    "sounding_lead": "sounding_lead",
    "net_float": "net_float",
}
"""File stem of the source, as its modeller named it → module in ``plindro.demo.props``."""


def build_prop(stem: str) -> dict[str, bytes]:
    """Files of a demo source by name, the OBJ first; raises ``KeyError`` for a stem that is not in ``DEMO_PROPS``."""
    module = import_module(f"plindro.demo.props.{DEMO_PROPS[stem]}")
    return export_model(module.model(), module.paints(), stem=stem)
