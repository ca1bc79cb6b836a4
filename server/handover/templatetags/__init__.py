"""What the templates of the papers use."""
