"""The acts of the Wire stage: follow, name a cable, name a port, choose from the kit, judge the length, build."""
