"""Takes: lists of steps, resolved against a picture and computed."""
