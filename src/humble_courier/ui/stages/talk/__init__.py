"""Talk: does it answer?"""
