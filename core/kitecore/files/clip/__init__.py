"""Stills from clips: frames found by their exact times, decoded in a process of its own, their colours brought to a still's."""
