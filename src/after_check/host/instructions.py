"""The few machine instructions that a memory test needs and Python has no word for: flush a cache line, and fences.

x86-64: CLFLUSH or CLFLUSHOPT, and as a fence a locked operation that changes nothing. The processor manuals order
loads, stores and flushes before and after a locked operation, and empty the buffers of stores past the caches at one
(memory ordering; buffering of write combining memory; CLFLUSHOPT). MFENCE orders no more of these, and
takes longer. AArch64: DC CIVAC and DSB (Arm Architecture Reference Manual, C5.3), which Linux allows to programs. On
other machines nothing is flushed, and `CAN_FLUSH` says so.
"""

from __future__ import annotations

import platform
from typing import Any

import llvmlite.binding as llvm
from llvmlite import ir
from numba import types
from numba.extending import intrinsic


def _instructions() -> tuple[str, str]:
    machine = platform.machine().lower()
    if machine in ("x86_64", "amd64"):
        try:
            with open("/proc/cpuinfo", encoding="ascii", errors="replace") as lines:
                newer = any(line.startswith("flags") and " clflushopt" in line for line in lines)
        except OSError:
            newer = False
        return ("clflushopt ($0)" if newer else "clflush ($0)"), "lock orl $$0, (%rsp)"
    if machine in ("aarch64", "arm64"):
        return "dc civac, $0", "dsb sy"
    return "", ""


_FLUSH, _FENCE = _instructions()
_CLOBBERED = ["~{memory}", "~{flags}"] if _FENCE.startswith("lock") else ["~{memory}"]
CAN_STORE_PAST = platform.machine().lower() in ("x86_64", "amd64")
"""Whether a store past the caches leaves nothing in them: on other machines it is a hint only."""
CAN_FLUSH = bool(_FLUSH)
"""Whether this machine has an instruction that throws a line out of every cache."""

LINE_BYTES = 64

llvm.initialize_native_asmparser()

_intrinsic: Any = intrinsic
"""Without its types, which describe what the compiler calls and not what a kernel does."""


def _emit(builder: Any, instruction: str, arguments: list[Any]) -> None:
    """Put an instruction into the code. It clobbers memory, so that no load or store is moved across it or merged."""
    kinds = [argument.type for argument in arguments]
    constraints = ",".join(["r"] * len(arguments) + _CLOBBERED)
    builder.asm(ir.FunctionType(ir.VoidType(), kinds), instruction, constraints, arguments, True)


@_intrinsic
def flush_line(typing_context: Any, address: Any) -> Any:
    """Write the cache line at an address back and throw it out of every cache."""

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        pointer = builder.inttoptr(arguments[0], ir.IntType(8).as_pointer())
        _emit(builder, _FLUSH, [pointer] if _FLUSH else [])
        return context.get_dummy_value()

    return types.void(types.uintp), codegen


@_intrinsic
def fetch_line(typing_context: Any, address: Any) -> Any:
    """Ask for the cache line at an address, which will be read and written soon, without waiting for it (PREFETCHW, PRFM).

    It is a hint: it changes nothing, and no address is a wrong one.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        pointer = builder.inttoptr(arguments[0], ir.IntType(8).as_pointer())
        number = ir.IntType(32)
        kinds = [pointer.type, number, number, number]
        prefetch = builder.module.declare_intrinsic("llvm.prefetch", [pointer.type], ir.FunctionType(ir.VoidType(), kinds))
        builder.call(prefetch, [pointer, number(1), number(3), number(1)])  # For writing, to the nearest cache, data.
        return context.get_dummy_value()

    return types.void(types.uintp), codegen


@_intrinsic
def copy_past(typing_context: Any, target: Any, source: Any) -> Any:
    """Copy 32 bytes to an address that is a multiple of 32, past the caches where the machine has such a store (MOVNTDQ)."""

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        four = ir.VectorType(ir.IntType(64), 4).as_pointer()
        value = builder.load(builder.inttoptr(arguments[1], four), align=8)
        stored = builder.store(value, builder.inttoptr(arguments[0], four), align=32)
        stored.set_metadata("nontemporal", builder.module.add_metadata([ir.Constant(ir.IntType(32), 1)]))
        return context.get_dummy_value()

    return types.void(types.uintp, types.uintp), codegen


@_intrinsic
def fence(typing_context: Any) -> Any:
    """Wait until every load, store and flush before it is done."""

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        _emit(builder, _FENCE, [])
        return context.get_dummy_value()

    return types.void(), codegen


@_intrinsic
def barrier(typing_context: Any) -> Any:
    """Keep the compiler from taking an earlier load for a later one; no instruction comes of it."""

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        _emit(builder, "", [])
        return context.get_dummy_value()

    return types.void(), codegen
