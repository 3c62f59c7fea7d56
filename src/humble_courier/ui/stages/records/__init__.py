"""Records: what worked?"""
