"""What people write and exchange: links, kits, device sheets, plans, records; read strictly, with file and line."""
