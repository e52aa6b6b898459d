"""What kernels stand on: how they are declared, exact predicates, prefetching."""
