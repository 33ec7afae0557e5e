"""Questions put to a sizing that is done.

By another school, another pipe, the other way round, or a little wrong.
"""
