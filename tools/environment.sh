# Shared by ./start and ./check: one virtual environment, installed again when what it is made of changes.

# prepare_environment LOCK: makes .venv with exactly what requirements/LOCK.lock says (run or check), unless it is up to date.
prepare_environment() {
    local lock=$1 python want have=""
    python=$(command -v python3.11 || command -v python3 || true)
    if [[ -z $python ]] || ! "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
        echo "After Check needs Python 3.11 or newer (Debian: apt install python3 python3-venv)." >&2
        exit 69
    fi
    want="$(cat pyproject.toml requirements/*.lock | sha256sum | cut -d' ' -f1) $PWD"
    [[ -f .venv/after-check-installed ]] && have=$(<.venv/after-check-installed)
    # What the checks need holds all that a run needs.
    if [[ $have == "$want $lock" || $have == "$want check" ]]; then
        return
    fi
    echo "Setting up .venv (once) ..." >&2
    [[ -x .venv/bin/python ]] && .venv/bin/python -c '' 2>/dev/null || "$python" -m venv --clear .venv
    # The lock names all there is to install. Left to look for more, pip refuses a lock as soon as something newer is published.
    .venv/bin/python -m pip install --quiet --disable-pip-version-check --no-deps --require-hashes --requirement "requirements/$lock.lock" >&2
    .venv/bin/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --editable . >&2
    # Where Python may not write beside its sources it would compile them at each start.
    .venv/bin/python -m compileall -q src >&2 || true
    echo "Compiling the tests of memory (once) ..." >&2
    .venv/bin/python -m after_check.cli.prepare >&2 || echo "The first test will compile them." >&2
    echo "$want $lock" >.venv/after-check-installed
}

# install_debian_packages COMMAND:PACKAGE ...: installs what is missing when this is Debian and we are root.
install_debian_packages() {
    local missing=() pair
    for pair in "$@"; do
        PATH=$PATH:/usr/sbin command -v "${pair%%:*}" >/dev/null || missing+=("${pair##*:}")
    done
    [[ ${#missing[@]} -eq 0 ]] && return
    if [[ $(id -u) -eq 0 ]] && command -v apt-get >/dev/null; then
        { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q "${missing[@]}"; } >/dev/null
    else
        echo "Some tests will be left out; they need: ${missing[*]}." >&2
    fi
}
