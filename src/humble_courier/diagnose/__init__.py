"""Why a link does not work: causes, how likely each is, and the check or mend that is worth most."""
