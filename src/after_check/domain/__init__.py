"""Plain frozen data: quantities, modules, boards, readings, promises, jobs; the table of facts, codes of findings, the tree of errors."""
