"""Kit: what is in the bag?"""
