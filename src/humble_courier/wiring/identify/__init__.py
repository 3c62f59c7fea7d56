"""What a meter says: which cable this is by beeps, which port by voltages."""
