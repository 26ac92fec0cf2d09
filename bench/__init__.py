"""How fast Row Tag is, as ratios within one run; `make bench` writes docs/bench.md."""
