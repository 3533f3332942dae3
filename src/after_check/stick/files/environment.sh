# Sourced: where After Check and its compiled loops are. They are there for two levels of the x86-64 psABI; which one
# this processor has is told by its flags, or named in LEVEL.
if [ -z "$LEVEL" ]; then
    LEVEL=x86-64-v3
    for flag in avx2 bmi1 bmi2 f16c fma movbe; do
        grep -qw "$flag" /proc/cpuinfo || LEVEL=x86-64
    done
fi
export LANG=C.UTF-8 PYTHONPATH=/opt/after-check/site PYTHONDONTWRITEBYTECODE=1
export NUMBA_CPU_NAME="$LEVEL" NUMBA_CPU_FEATURES="" NUMBA_CACHE_DIR="/opt/after-check/compiled/$LEVEL"
