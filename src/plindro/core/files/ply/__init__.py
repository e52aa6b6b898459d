"""PLY: polygons with points, normals, colours and UVs; text, and binary of both byte orders."""
