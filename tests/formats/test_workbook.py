from __future__ import annotations

import pytest

from roundcard import TargetError
from roundcard.formats import workbook


def test_more_rows_than_a_sheet_holds_are_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(workbook, "MOST_ROWS", 300)
    writer = workbook.WorkbookWriter("people")
    writer.add([["a"]] * 300)
    with pytest.raises(TargetError, match="holds 300 rows"):
        writer.add([["b"]])
