"""Camera raws: told by their content, unpacked by LibRaw in a process of its own, developed to linear light here."""
