# Puts Gondrel among the user's applications: entry, icon, MIME types. Sourced by ./start.
# Expects to be in the project's root, with say() known.

install_desktop() {
  local data="${XDG_DATA_HOME:-$HOME/.local/share}" root here
  root="$(pwd)"
  here="gondrel/ui/resources"
  mkdir -p "$data/applications" "$data/icons/hicolor/scalable/apps" "$data/mime/packages" || return 1
  cp "$here/icons/gondrel.svg" "$data/icons/hicolor/scalable/apps/gondrel.svg" || return 1
  cp "$here/desktop/gondrel-mime.xml" "$data/mime/packages/gondrel.xml" || return 1
  sed "s|@START@|$root/start|" "$here/desktop/gondrel.desktop.in" >"$data/applications/gondrel.desktop" ||
    return 1
  if command -v update-mime-database >/dev/null; then update-mime-database "$data/mime" >/dev/null 2>&1; fi
  if command -v update-desktop-database >/dev/null; then
    update-desktop-database "$data/applications" >/dev/null 2>&1
  fi
  say "installed the desktop entry, icon and file types in $data"
}
