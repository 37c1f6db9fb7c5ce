"""Folder, archive and report."""

from __future__ import annotations

import csv
import io
import zipfile
from pathlib import Path

import pytest

from true_backdrop.outlets.archive import archive
from true_backdrop.outlets.errors import DeliveryFailed
from true_backdrop.outlets.folder import OutgoingFile, deliver
from true_backdrop.outlets.report import report

FILES = [OutgoingFile("a.jpg", b"aaa"), OutgoingFile("b.jpg", b"bbb")]


def test_sending_again_doubles_nothing(tmp_path: Path) -> None:
    assert deliver(tmp_path / "x", FILES) == 2
    assert deliver(tmp_path / "x", FILES) == 0
    assert deliver(tmp_path / "x", [OutgoingFile("a.jpg", b"new")]) == 1
    assert {p.name: p.read_bytes() for p in (tmp_path / "x").iterdir()} == {"a.jpg": b"new", "b.jpg": b"bbb"}


@pytest.mark.parametrize("name", ["../a.jpg", "x/y.jpg", ".hidden", "c:\\x.jpg"])
def test_names_with_folders_are_refused(tmp_path: Path, name: str) -> None:
    with pytest.raises(DeliveryFailed, match="plain file name"):
        deliver(tmp_path, [OutgoingFile(name, b"x")])


def test_a_folder_that_cannot_be_made_is_said(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(DeliveryFailed, match="cannot be made"):
        deliver(tmp_path / "file" / "folder", FILES)


def test_archive_is_the_same_every_time() -> None:
    assert archive(FILES) == archive(FILES)
    with zipfile.ZipFile(io.BytesIO(archive(FILES))) as opened:
        assert opened.testzip() is None
        assert {name: opened.read(name) for name in opened.namelist()} == {"a.jpg": b"aaa", "b.jpg": b"bbb"}


def test_report_has_a_column_for_each_rule_and_runs_no_formula() -> None:
    """RFC 4180: CRLF line ends, quotes around commas."""
    row = {
        "file": "a.jpg",
        "code": "=HYPERLINK(1)",
        "name": "Mug, blue",
        "angle": "front",
        "bytes": 10,
        "quality": 80,
        "verdict": "clean",
        "passed": False,
        "findings": [
            {"rule": "square", "found": "1:1", "wanted": "1:1", "passed": True},
            {"rule": "file size", "found": "9 bytes", "wanted": "8", "passed": False},
        ],
    }
    text = report([row])
    assert text.count("\r\n") == 2
    head, line = list(csv.reader(io.StringIO(text)))
    assert head[-2:] == ["square", "file size"]
    assert line[1] == "'=HYPERLINK(1)" and line[2] == "Mug, blue"
    assert line[-1] == "FAILS: 9 bytes, wanted 8"
