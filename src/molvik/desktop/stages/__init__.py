"""The pages of the stages."""
