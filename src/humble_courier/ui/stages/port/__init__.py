"""Port: which one is mine, who claims it, may I open it?"""
