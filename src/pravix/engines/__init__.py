"""Where rows live when they are not taken into memory: counted, tested and fetched by the engine that has
them.
"""
