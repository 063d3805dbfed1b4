# Shared by ./start and ./test: finds Python, installs what is missing, says what it does.
# Expects to be sourced in the project's root. Sets PYTHON to the environment's interpreter.

RUN_PACKAGES="libgl1 libegl1 libgl1-mesa-dri libxcb-cursor0 libxcb-icccm4 libxcb-image0 \
libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 libxcb-shape0 libxcb-xinerama0 libxcb-xkb1 \
libxkbcommon-x11-0 libpango-1.0-0 libpangoft2-1.0-0 libfontconfig1 libdbus-1-3 libglib2.0-0 libexpat1 libx11-6"

say() { printf 'gondrel: %s\n' "$*" >&2; }

is_installed() {
  dpkg-query -W -f='${Status} ${Provides}\n' "$1" 2>/dev/null | grep -q '^install ok installed' ||
    dpkg-query -W -f='${Status} ${Package}\n' "$1t64" 2>/dev/null | grep -q '^install ok installed'
}

# need_packages NAME...: install those that are missing, where we may; otherwise say how.
need_packages() {
  command -v dpkg-query >/dev/null || { say "not a Debian or Ubuntu machine; needed: $*"; return 0; }
  local missing=""
  for name in "$@"; do is_installed "$name" || missing="$missing $name"; done
  [ -z "$missing" ] && return 0
  local root=""
  if [ "$(id -u)" != 0 ]; then
    if command -v sudo >/dev/null && sudo -n true 2>/dev/null; then root="sudo"; else
      say "these system packages are missing; please run once:"
      say "  sudo apt-get update && sudo apt-get install$missing"
      return 0
    fi
  fi
  say "installing system packages:$missing"
  $root apt-get update -qq >/dev/null || say "apt-get update failed; trying with the old lists"
  # shellcheck disable=SC2086
  DEBIAN_FRONTEND=noninteractive $root apt-get install -y -qq --no-install-recommends $missing >/dev/null ||
    { say "installing$missing failed"; return 1; }
}

find_python() {
  for name in python3.13 python3.12 python3.11 python3; do
    if command -v "$name" >/dev/null &&
      "$name" -c 'import sys; sys.exit(not ((3, 11) <= sys.version_info[:2] <= (3, 13)))' 2>/dev/null; then
      command -v "$name"
      return 0
    fi
  done
  return 1
}

# need_environment EXTRA: make .venv and install the project into it when its declaration changed.
need_environment() {
  local extra="$1" stamp base
  if [ ! -x .venv/bin/python ] || ! .venv/bin/python -c 'import pip' 2>/dev/null; then
    if ! base="$(find_python)"; then
      need_packages python3 python3-venv
      base="$(find_python)" || { say "Python 3.11, 3.12 or 3.13 is needed and was not found"; exit 2; }
    fi
    "$base" -c 'import ensurepip, venv' 2>/dev/null || need_packages python3-venv
    say "making the environment in .venv with $base"
    rm -rf .venv
    "$base" -m venv .venv || { say "making .venv failed"; exit 2; }
  fi
  stamp="$(cksum <pyproject.toml)$extra $(pwd)"
  if [ "$(cat .venv/stamp 2>/dev/null)" != "$stamp" ]; then
    say "installing Python packages into .venv (some hundred MB the first time)"
    .venv/bin/python -m pip install --quiet --disable-pip-version-check -e ".$extra" ||
      { say "installing Python packages failed"; exit 2; }
    # By itself, since what it names as needed (plotting, and its fonts and pictures) is never loaded here.
    case "$extra" in *qt* | *test*)
      .venv/bin/python -m pip install --quiet --disable-pip-version-check --no-deps \
        "$(sed -n 's/^ *"\(vtk==[^"]*\)",*/\1/p' pyproject.toml | head -1)" ||
        { say "installing VTK failed"; exit 2; } ;;
    esac
    printf '%s' "$stamp" >.venv/stamp
  fi
  PYTHON="$(pwd)/.venv/bin/python"
}
