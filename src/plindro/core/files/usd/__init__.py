"""USD through OpenUSD's own package: meshes, subsets, UV sets, preview materials."""
