"""The rules and arithmetic of sizing a pump: plain data in, frozen results out.

Nothing here knows of the web, a database or a clock. SI floats and arrays inside,
names carry the unit; text with units is read and written only by ``quantity`` and ``units``.
"""
