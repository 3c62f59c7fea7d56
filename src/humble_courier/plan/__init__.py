"""What to take for a day: the least bag that serves all links, one that outlasts a failure, what fails without a piece."""
