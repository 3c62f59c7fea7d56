"""The link that is open: its document with undo, its live session, its ledger of facts, its proof, the next step."""
