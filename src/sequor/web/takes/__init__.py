"""The edges: what each mode costs, and takes."""
