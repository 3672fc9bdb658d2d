#!/usr/bin/env bash
# Tries Offcut under every Python from 3.11 to 3.13 that this machine has, each from nothing: a clone of
# the working tree, set up by the launcher, finds the demo's seams, draws the window and runs the unit tests.
#   tools/every_python.sh              all of it, under each interpreter
#   tools/every_python.sh --short      seams and window, under those beside the one in .venv
#   tools/every_python.sh PYTHON ...   under these
set -euo pipefail
here="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
export QT_QPA_PLATFORM=offscreen PIP_NO_COMPILE=1

short=""
if [ "${1:-}" = --short ]; then
  short=yes
  shift
fi

version_of() { "$1" -c 'import sys; print("%d.%d" % sys.version_info[:2])' 2>/dev/null; }

# One interpreter of each version, such as the launcher would take.
found() {
  local python version known=" "
  for python in "$@"; do
    [ -x "$python" ] || continue
    "$python" -c 'import sys, venv, ensurepip; sys.exit(not (3, 11) <= sys.version_info < (3, 14))' 2>/dev/null || continue
    version="$(version_of "$python")"
    case "$known" in *" $version "*) continue ;; esac
    known="$known$version "
    printf '%s\n' "$python"
  done
}

everywhere() {
  local version folder
  for version in 3.11 3.12 3.13; do
    command -v "python$version" 2>/dev/null || true
  done
  for folder in "$HOME"/.pyenv/versions /opt/python "$HOME"/.local/share/uv/python; do
    find "$folder" -maxdepth 3 -path '*/bin/python3' 2>/dev/null || true
  done
  command -v python3 || true
}

if [ $# = 0 ]; then
  mapfile -t candidates < <(everywhere)
  set -- "${candidates[@]}"
fi
mapfile -t pythons < <(found "$@")
own="$(version_of "$here/.venv/bin/python" || true)"

seams_by() { # the seams of the demo, without what a run may say of itself
  "$1" --version >&2 # sets it up
  "$1" detect "$here/src/offcut/demo/line-7-at-first-light.mp4" --json --quiet |
    "$here/.venv/bin/python" -c 'import json, sys; print(json.dumps(json.load(sys.stdin)["seams"], sort_keys=True))'
}

home="$(mktemp -d)"
trap 'rm -rf "$home"' EXIT
export XDG_CACHE_HOME="$home/cache" XDG_CONFIG_HOME="$home/config" XDG_STATE_HOME="$home/state"
[ "${#pythons[@]}" -gt 0 ] || { echo "no Python from 3.11 to 3.13 with venv is here"; exit 1; }
seams_by "$here/offcut" >"$home/expected"
tried=0
for python in "${pythons[@]}"; do
  version="$(version_of "$python")"
  if [ -n "$short" ] && [ "$version" = "$own" ]; then
    continue
  fi
  echo "Python $version: $python"
  clone="$home/$version"
  mkdir "$clone"
  (cd "$here" && git ls-files -z --cached --others --exclude-standard |
    tar --null --ignore-failed-read -cf - -T - 2>/dev/null) | tar -xf - -C "$clone"
  export OFFCUT_PYTHON="$python" XDG_CACHE_HOME="$home/cache-$version"
  seams_by "$clone/offcut" >"$home/seams-$version"
  cmp "$home/expected" "$home/seams-$version"
  "$clone/offcut" demo --screenshot "$home/window-$version.png"
  test -s "$home/window-$version.png"
  if [ -z "$short" ]; then
    (cd "$clone" && .venv/bin/python -m pytest -n 2 tests/unit)
  fi
  rm -rf "$clone"
  tried=$((tried + 1))
done
echo "the same seams, and the window, under $tried more"
