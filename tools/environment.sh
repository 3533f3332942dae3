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

# install_debian_packages [--alone] COMMAND:PACKAGE ...: installs what is missing when this is Debian and we are root; --alone
# leaves out what a package only recommends.
install_debian_packages() {
    local missing=() pair options=(-y -q)
    [[ $1 == --alone ]] && { options+=(--no-install-recommends); shift; }
    for pair in "$@"; do
        PATH=$PATH:/usr/sbin command -v "${pair%%:*}" >/dev/null || missing+=("${pair##*:}")
    done
    [[ ${#missing[@]} -eq 0 ]] && return
    if [[ $(id -u) -eq 0 ]] && command -v apt-get >/dev/null; then
        { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install "${options[@]}" "${missing[@]}"; } >/dev/null
    else
        echo "Some tests will be left out; they need: ${missing[*]}." >&2
    fi
}

# fetch_guest_kernel: puts a kernel of the distribution into .venv/guest, which a test boots in the emulator. Nothing is installed by it.
fetch_guest_kernel() {
    [[ -f .venv/guest/vmlinuz || $(uname -m) != x86_64 || $(id -u) -ne 0 ]] && return
    command -v apt-get >/dev/null || return 0
    local folder package
    folder=$(mktemp -d)
    apt-cache show linux-image-cloud-amd64 >/dev/null 2>&1 || apt-get update -q >/dev/null || true
    package=$(apt-cache depends linux-image-cloud-amd64 | awk '/Depends: linux-image-/ {print $2; exit}')
    if (cd "$folder" && chmod 755 . && apt-get download -q "${package:-linux-image-cloud-amd64}" && dpkg-deb --extract ./*.deb .) >/dev/null 2>&1; then
        mkdir -p .venv/guest
        cp "$folder"/boot/vmlinuz-* .venv/guest/vmlinuz
    fi
    rm -rf "$folder"
}
