#!/usr/bin/env bash
# Makes a release: tools/release.sh 1.0.0
#
# The tree has to be clean and CHANGELOG.md has to say something under "Unreleased". Nothing is pushed.
set -euo pipefail
cd "$(dirname "$0")/.."
version=${1:?usage: tools/release.sh VERSION}
[[ $version =~ ^[0-9]+\.[0-9]+\.[0-9]+$ ]] || { echo "a version is three numbers: 1.0.0" >&2; exit 64; }
[[ -z $(git status --porcelain) ]] || { echo "there are changes that are not committed" >&2; exit 65; }
! git rev-parse -q --verify "refs/tags/v$version" >/dev/null || { echo "there is a release $version already" >&2; exit 65; }
changes=$(sed -n '/^## \[Unreleased\]/,/^## \[[0-9]/p' CHANGELOG.md | grep -c '^- ' || true)
[[ $changes -gt 0 ]] || { echo "CHANGELOG.md says nothing under Unreleased" >&2; exit 65; }
sed -i "s/^__version__ = .*/__version__ = \"$version\"/" src/after_check/__init__.py
sed -i "s/^## \[Unreleased\]/## [Unreleased]\n\n## [$version] - $(date +%F)/" CHANGELOG.md
./check --release
./check
git commit -aqm "Release $version"
git tag -a "v$version" -m "After Check $version"
echo "made: v$version (git push --follow-tags sends it)"
