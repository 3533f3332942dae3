"""Files are written whole or not at all, and nothing but a plain file is replaced."""

from __future__ import annotations

import os
import stat
import subprocess
import sys

import pytest

from after_check.files.whole_files import NotReplacedError, make_private_folder, write_whole


def mode_of(path):
    return stat.S_IMODE(path.stat().st_mode)


def test_a_new_file_has_the_rights_of_the_umask_and_an_old_one_keeps_its_own(tmp_path):
    code = f"""
import os, pathlib
os.umask(0o027)
from after_check.files.whole_files import write_whole
write_whole(pathlib.Path({str(tmp_path / "new")!r}), b"new")
"""
    subprocess.run([sys.executable, "-c", code], check=True)
    assert mode_of(tmp_path / "new") == 0o640
    (tmp_path / "old").write_bytes(b"old")
    (tmp_path / "old").chmod(0o604)
    write_whole(tmp_path / "old", b"newer")
    assert ((tmp_path / "old").read_bytes(), mode_of(tmp_path / "old")) == (b"newer", 0o604)


def test_a_private_file_and_its_folder_are_for_their_owner_alone(tmp_path):
    make_private_folder(tmp_path / "a" / "b")
    write_whole(tmp_path / "a" / "b" / "draft", b"text", private=True)
    assert [mode_of(path) for path in (tmp_path / "a", tmp_path / "a" / "b", tmp_path / "a" / "b" / "draft")] == [0o700, 0o700, 0o600]


@pytest.mark.parametrize("kind", ["link", "dangling link", "folder", "pipe", "device"])
def test_what_is_no_plain_file_stays_as_it_is(tmp_path, kind):
    target, path = tmp_path / "target", tmp_path / "out"
    target.write_bytes(b"kept")
    if kind == "link":
        path.symlink_to(target)
    elif kind == "dangling link":
        path.symlink_to(tmp_path / "nowhere")
    elif kind == "folder":
        path.mkdir()
    elif kind == "pipe":
        os.mkfifo(path)
    elif os.geteuid() == 0:
        try:
            os.mknod(path, 0o600 | stat.S_IFCHR, os.makedev(1, 3))
        except PermissionError:
            pytest.skip("this place lets nobody make a device")
    else:
        pytest.skip("only root makes devices")
    before = path.lstat()
    with pytest.raises(NotReplacedError, match="not replaced"):
        write_whole(path, b"new")
    assert (path.lstat().st_mode, path.lstat().st_ino) == (before.st_mode, before.st_ino)
    assert target.read_bytes() == b"kept"
    assert not (tmp_path / "nowhere").exists()
    assert sorted(entry.name for entry in tmp_path.iterdir()) == ["out", "target"]
