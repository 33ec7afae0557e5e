"""Pictures from results: pure scales, frozen models with every number already text, templates that only print."""
