"""The Sizes page."""
