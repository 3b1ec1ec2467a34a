"""The invented job."""
