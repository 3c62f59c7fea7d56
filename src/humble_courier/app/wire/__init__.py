"""Does each conductor end where it should?"""
