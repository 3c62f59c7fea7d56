"""Do both ends agree, and if not, why?"""
