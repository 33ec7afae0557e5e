"""Questions put to a sizing that is done: by another school, another pipe, the other way round, or a little wrong."""
