"""Containers of GPU textures: DDS and KTX2."""
