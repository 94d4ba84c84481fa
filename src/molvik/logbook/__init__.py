"""The logbook beside the stages: the clock, the story, and the hours still to come."""
