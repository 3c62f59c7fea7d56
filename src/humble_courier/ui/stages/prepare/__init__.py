"""Prepare: may I, and is it alive?"""
