"""All arrays of a prop as .npz, for pipelines that read no model format."""
