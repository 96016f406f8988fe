"""The demonstration: a made-up contractor, its jobs, and everything started together."""
