#!/bin/sh
# Gathers what a machine says about its memory into one text file, for After Check on another computer.
#
#   sh collect.sh [FILE]        FILE: after-check-NAME.txt in this folder, where none is named
#
# It reads, and changes nothing. It needs nothing installed. As root it sees more: sudo sh collect.sh
# On the other computer:  after-check read FILE
set -u
# Where zsh runs it, names are to be split and looked up as in any other shell.
if [ -n "${ZSH_VERSION:-}" ]; then emulate sh; fi
LC_ALL=C
export LC_ALL
# A folder that stands for / (a copied tree); empty on the machine itself.
root=${COLLECT_ROOT:-}
system=${COLLECT_SYSTEM:-$(uname -s)}
out=${1:-after-check-$(uname -n | tr -cd 'A-Za-z0-9-').txt}

# What is read, on a system with /sys and /proc; a name with a * stands for all that fit.
names='
@MACHINE_FILES@
'
report='system_profiler -json SPMemoryDataType SPHardwareDataType'

say() { echo "$*" >&2; }

# Names are split at blanks; what a * stands for is looked up where the files are, not here.
set -f

if [ -e "$out" ]; then
    say "$out is there already: name another file, or take it away"
    exit 73
fi
case $system in
Darwin)
    say "This will be read: the system's own report of memory and hardware ($report)."
    ;;
*)
    say "This will be read:"
    for name in $names; do say "  $name"; done
    ;;
esac

one_file() {
    if [ ! -e "$1" ] || [ -d "$1" ]; then
        return
    elif [ ! -r "$1" ]; then
        say "not read, for want of rights: ${1#"$root"}"
        echo "@rights ${1#"$root"}"
    elif command -v base64 >/dev/null 2>&1; then
        echo "@base64 ${1#"$root"}"
        head -c 1048576 "$1" 2>/dev/null | base64
    else
        echo "@hex ${1#"$root"}"
        od -An -v -tx1 -N 1048576 "$1" 2>/dev/null
    fi
}

gather() {
    echo "after-check collection 1"
    case $system in
    Darwin)
        echo "@json report"
        $report
        ;;
    *)
        for name in $names; do
            set +f
            for file in $root$name; do one_file "$file"; done
            set -f
        done
        ;;
    esac
    echo "@end"
}

gather >"$out" || exit 74
# The last line covers every line above it: sum and length as POSIX cksum gives them. A small rescue system may be without it.
if command -v cksum >/dev/null 2>&1; then
    sum="@cksum $(cksum <"$out")"
elif command -v sha256sum >/dev/null 2>&1; then
    sum="@sha256 $(sha256sum <"$out")"
else
    sum="@length $(wc -c <"$out")"
fi
echo "$sum" >>"$out" || exit 74
say "Written: $out. Take it to the other computer, and there: after-check read $out"
