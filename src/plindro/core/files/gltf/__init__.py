"""glTF 2.0: container, accessors, scene reader and the writer of level chains."""
