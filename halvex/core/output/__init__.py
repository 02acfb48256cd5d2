"""Files: pictures and models."""
