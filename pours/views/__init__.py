"""Pages of the pours app: one pour, its checks, finding and comparing, what was learned."""
