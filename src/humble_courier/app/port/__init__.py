"""Which port is it, who claims it, can it be opened?"""
