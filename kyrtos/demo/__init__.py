"""The demo shop of Ilvermoor: loads the open files in demo/ through the ordinary import code."""
