"""How each engine is trained: a module per engine, named after it, with one ``Recipe``."""
