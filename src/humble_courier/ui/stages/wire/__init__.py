"""Wire: does each conductor end where it should?"""
