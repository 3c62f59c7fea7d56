"""The program attacked: what is hostile, unlucky or too much. These go across rooms, and mirror no module."""
