"""Picture files: read, and what travels beside their pixels."""
