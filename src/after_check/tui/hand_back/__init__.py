"""The view of the hand-back: what is missing, the sheet as it will be, agreements, signing, writing it out."""
