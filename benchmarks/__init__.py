"""What is fast and how it is measured: Plindro's kernels beside libraries a user would pick instead.

``./plindro bench`` runs all, ``./plindro bench reduction`` one. Everything is compiled before the clock starts; each
figure is the least of three runs in CPU seconds of one process, and ratios compare figures of the same run.
"""
