"""What this Linux machine says of itself; every path stands under a root that can be replaced."""
