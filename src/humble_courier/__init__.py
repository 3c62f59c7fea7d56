"""Humble Courier: from the parts on the bench to the first answered byte."""
