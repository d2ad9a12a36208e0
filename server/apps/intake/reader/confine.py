"""Take from this process everything that reading a file does not need, before the file is looked at.

Three layers, each enough for the attacks known to us and none relied on alone:

* limits of the kernel on memory, processor time and written files (``setrlimit``);
* Landlock, where the kernel has it: from then on only the folders of the interpreter and of this program can be opened,
  and no TCP connection be made, whatever code runs in the process, C libraries included;
* an audit hook of the interpreter that refuses files elsewhere, sockets and new programs, on every kernel.

References: landlock(7); PEP 578.
"""

from __future__ import annotations

import ctypes
import os
import resource
import struct
import sys
from collections.abc import Callable
from pathlib import Path

_CREATE_RULESET, _ADD_RULE, _RESTRICT_SELF = 444, 445, 446  # the same numbers on every architecture
_NO_NEW_PRIVS = 38
_PATH_BENEATH = 1
_READ_FILE, _READ_DIR, _EXECUTE = 1 << 2, 1 << 3, 1 << 0
# rights on files that each version of the kernel's interface knows, all of which are taken away
_FILE_RIGHTS = {1: (1 << 13) - 1, 2: (1 << 14) - 1, 3: (1 << 15) - 1, 4: (1 << 15) - 1, 5: (1 << 16) - 1}
_NET_RIGHTS = 0b11  # bind and connect of TCP, from version 4 on
_FORBIDDEN = ("socket.", "subprocess.", "os.exec", "os.fork", "os.posix_spawn", "os.spawn", "os.system", "ctypes.", "shutil.")
_OPENING = ("open", "os.listdir", "os.scandir", "os.chdir", "os.rename", "os.remove", "os.mkdir", "os.symlink", "os.link")


def allowed_folders() -> tuple[str, ...]:
    """Folders of the interpreter, its packages and this program; nothing recorded lies in any of them."""
    here = Path(__file__).resolve().parents[3]  # the server's sources
    names = {sys.prefix, sys.base_prefix, str(here), "/usr/lib", "/usr/share/zoneinfo", "/lib", "/lib64"}
    names |= {path for path in sys.path if path and Path(path).is_dir() and path != "/"}
    return tuple(sorted(str(Path(path).resolve()) for path in names if Path(path).exists()))


def confine(*, memory_bytes: int, seconds: int) -> bool:
    """Give up rights for good; returns whether the kernel enforces it too."""
    limits = {
        resource.RLIMIT_AS: memory_bytes,
        resource.RLIMIT_CPU: seconds,
        resource.RLIMIT_FSIZE: 0,
        resource.RLIMIT_CORE: 0,
    }
    for limit, value in limits.items():
        _, most = resource.getrlimit(limit)
        resource.setrlimit(limit, (value if most == resource.RLIM_INFINITY else min(value, most),) * 2)
    folders = allowed_folders()
    enforced = _landlock(folders)
    sys.addaudithook(_hook(folders))
    return enforced


def landlock_version() -> int:
    """Version of Landlock that this kernel offers, 0 without."""
    result: int = ctypes.CDLL(None).syscall(_CREATE_RULESET, None, ctypes.c_size_t(0), ctypes.c_uint32(1))
    return max(result, 0)


def _landlock(folders: tuple[str, ...]) -> bool:
    version = landlock_version()
    if not version:
        return False
    kernel = ctypes.CDLL(None, use_errno=True)
    rights = _FILE_RIGHTS[min(version, max(_FILE_RIGHTS))]
    ruled = struct.pack("=QQ", rights, _NET_RIGHTS) if version >= 4 else struct.pack("=Q", rights)
    ruleset = kernel.syscall(_CREATE_RULESET, ruled, ctypes.c_size_t(len(ruled)), ctypes.c_uint32(0))
    if ruleset < 0:
        return False
    for folder in folders:
        handle = os.open(folder, os.O_PATH | os.O_CLOEXEC)
        rule = struct.pack("=Qi", _READ_FILE | _READ_DIR | _EXECUTE, handle)
        done = kernel.syscall(_ADD_RULE, ctypes.c_int(ruleset), ctypes.c_int(_PATH_BENEATH), rule, ctypes.c_uint32(0))
        os.close(handle)
        if done < 0:
            return False
    kernel.prctl(_NO_NEW_PRIVS, 1, 0, 0, 0)
    enforced = kernel.syscall(_RESTRICT_SELF, ctypes.c_int(ruleset), ctypes.c_uint32(0)) == 0
    os.close(ruleset)
    return bool(enforced)


def _hook(folders: tuple[str, ...]) -> Callable[[str, tuple[object, ...]], None]:
    prefixes = tuple(f"{folder}/" for folder in folders)

    def refuse(event: str, arguments: tuple[object, ...]) -> None:
        if event.startswith(_FORBIDDEN):
            raise PermissionError(f"not while a file is read: {event}")
        if event == "sqlite3.connect" and arguments[0] != ":memory:":
            raise PermissionError("not while a file is read: another database")
        if event in _OPENING and arguments and isinstance(arguments[0], (str, bytes, os.PathLike)):
            path = os.path.realpath(os.fsdecode(arguments[0]))
            if path not in folders and not path.startswith(prefixes):
                raise PermissionError("not while a file is read: another file")

    return refuse
