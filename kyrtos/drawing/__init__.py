"""Pictures from results.

Pure scales, frozen models with every number already text, templates that only print.
"""
