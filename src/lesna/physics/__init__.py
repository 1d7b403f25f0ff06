"""Numbers in, numbers out: the models of docs/physics.md as functions of floats or arrays.

No documents, no files and no Qt here. Symbols and units are those of docs/nomenclature.md. Every function
broadcasts its arguments like NumPy does, trusts that they lie in their stated range (documents are checked
where they enter) and raises nothing unless its docstring says so.
"""

from __future__ import annotations

from typing import Any

from numpy.typing import NDArray

#: a float, or an array of floats of any shape
Num = Any
Array = NDArray[Any]
