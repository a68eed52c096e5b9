"""Whether what a lock file names is installed whole: each package in its version, and each of its files
that Python would load. Quick enough to be asked at every start; half an environment is told before it
ends in a traceback.

Usage: python tools/check_environment.py LOCK...
"""

from __future__ import annotations

import re
import sys
from importlib import metadata
from pathlib import Path

_PINNED = re.compile(r"^([A-Za-z0-9._-]+)==([^\s;\\]+)(?:\s*;\s*([^\\]+))?", re.MULTILINE)
_LOADED = (".py", ".so")


def faults(lock: str) -> list[str]:
    """What is missing, a sentence each."""
    found = []
    for name, version, marker in _PINNED.findall(lock):
        if marker and not _applies(marker):
            continue
        try:
            distribution = metadata.distribution(name)
        except metadata.PackageNotFoundError:
            found.append(f"{name} is not installed")
            continue
        if distribution.version != version:
            found.append(f"{name} is {distribution.version} and not {version}")
            continue
        for file in distribution.files or ():
            if file.suffix in _LOADED and not Path(str(distribution.locate_file(file))).exists():
                found.append(f"{name} lacks {file}")
                break
    return found


def _applies(marker: str) -> bool:
    try:
        from pip._vendor.packaging.markers import Marker
    except ImportError:
        return True
    return bool(Marker(marker.strip()).evaluate())


if __name__ == "__main__":
    missing = [fault for path in sys.argv[1:] for fault in faults(Path(path).read_text())]
    for fault in missing[:3]:
        print(fault, file=sys.stderr)
    sys.exit(bool(missing))
