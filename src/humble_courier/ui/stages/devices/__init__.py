"""Devices: which sheets are there?"""
