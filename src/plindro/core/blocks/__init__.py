"""Blocks of 4 × 4 pixels as GPUs keep them: BC1, BC3, BC4, BC5 and BC7, made and read back."""
