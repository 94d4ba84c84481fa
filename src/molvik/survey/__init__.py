"""Survey: what do I have, and what state is it in."""
