"""Puts the machine code of the inner loops into a wheel; without a compiler the wheel does without."""

from __future__ import annotations

import platform
import shutil
import sys
import tempfile
import warnings
from collections.abc import Iterable
from hashlib import sha256
from importlib import import_module
from importlib.metadata import version as version_of
from pathlib import Path
from typing import Any

from hatchling.builders.hooks.plugin.interface import BuildHookInterface


class MachineCode(BuildHookInterface):  # type: ignore[type-arg]
    """Compiles ``pravix.kernels`` while a wheel is built, not for an editable install: there Numba does.

    What was compiled is kept in ``build/``, as pip asks for a wheel twice.
    """

    def initialize(self, version: str, build_data: dict[str, Any]) -> None:
        """Compile, and have the result packed."""
        if version == "editable" or self.target_name != "wheel":
            return
        source = Path(self.root) / "src"
        try:
            made = _compiled(source, Path(self.root) / "build" / "machine-code")
        except Exception as error:
            self.app.display_warning(f"no machine code in this wheel, Numba compiles at run time: {error}")
            return
        build_data["force_include"][str(made)] = f"pravix/kernels/{made.name}"
        build_data["pure_python"] = False
        build_data["infer_tag"] = True


def _compiled(source: Path, kept: Path) -> Path:
    """Return the extension module made of all loops of ``pravix.kernels``."""
    warnings.simplefilter("ignore")
    from numba.core.compiler import Flags
    from numba.pycc import CC, compiler

    def released() -> Flags:
        flags = Flags()
        flags.release_gil = True
        return flags

    files = sorted((source / "pravix" / "kernels").glob("*.py"))
    folder = kept / _fingerprint([Path(__file__), *files])
    compiler.Flags = released
    sys.path.insert(0, str(source))
    from pravix.kernels.compiling import BEFOREHAND, LOOPS

    module = CC(BEFOREHAND, source_module="pravix.kernels.compiling")
    if platform.machine().lower() in ("x86_64", "amd64"):
        module.target_cpu = "x86-64-v3"
    made = folder / module.output_file
    if not made.exists():
        for one in files:
            import_module(f"pravix.kernels.{one.stem}".removesuffix(".__init__"))
        for loop in LOOPS:
            module.export(loop.name, loop.signature)(loop.function)
        with tempfile.TemporaryDirectory() as work:
            module.output_dir = work
            module.compile()
            folder.mkdir(parents=True, exist_ok=True)
            shutil.copy(Path(work) / made.name, made)
    return made


def _fingerprint(files: Iterable[Path]) -> str:
    """Return what tells these files, and the compiler's version, from others."""
    text = "\n".join([version_of("numba"), *(one.read_text("utf-8") for one in files)])
    return sha256(text.encode()).hexdigest()[:16]
