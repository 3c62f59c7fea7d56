"""Settings: do both ends agree?"""
