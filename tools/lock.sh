#!/usr/bin/env bash
# Writes the lock files again: every package with its version and hashes, as ./start, ./check and the wheel's tests install them.
#
#   tools/lock.sh                 the newest versions that pyproject.toml allows
#   tools/lock.sh --keep          only what has to change
#
# No index is named in them. Needs the virtual environment of ./check; pip-tools is fetched into one of its own.
set -euo pipefail
cd "$(dirname "$0")/.."
upgrade=(--upgrade)
[[ ${1:-} == --keep ]] && upgrade=()
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
python3.11 -m venv "$work/venv"
"$work/venv/bin/pip" install --quiet --disable-pip-version-check pip-tools
echo "setuptools>=77" >"$work/build.in"
compile() {
    "$work/venv/bin/pip-compile" --quiet "${upgrade[@]}" --generate-hashes --allow-unsafe --strip-extras --no-header \
        --no-emit-index-url --no-emit-find-links --no-emit-trusted-host --no-emit-options --no-annotate "$@" pyproject.toml "$work/build.in"
}
compile --output-file requirements/run.lock
compile --extra dev --output-file requirements/check.lock
for lock in requirements/*.lock; do
    sed -i -e '/^#/d' -e '/^--/d' "$lock"
done
