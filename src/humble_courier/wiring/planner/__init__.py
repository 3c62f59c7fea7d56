"""Which chain of parts joins two ports: the k best out of a kit."""
