"""The firmware's tables. Document: DMTF DSP0134, System Management BIOS Reference Specification."""
