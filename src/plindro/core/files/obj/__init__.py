"""OBJ with MTL: a fast polygon reader (``reader``) and its parts."""
