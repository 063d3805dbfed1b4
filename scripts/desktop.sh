# Puts Gondrel among the user's applications, or takes it away: entry, icon, metadata, MIME types.
# Sourced by ./start. Expects to be in the project's root, with say() known.

desktop_data="${XDG_DATA_HOME:-$HOME/.local/share}"

refresh_desktop() {
  local data="$desktop_data"
  if command -v update-mime-database >/dev/null && [ -d "$data/mime/packages" ]; then
    update-mime-database "$data/mime" >/dev/null 2>&1
  fi
  if command -v update-desktop-database >/dev/null && [ -d "$data/applications" ]; then
    update-desktop-database "$data/applications" >/dev/null 2>&1
  fi
  return 0
}

install_desktop() {
  local data="$desktop_data" root here
  root="$(pwd)"
  here="gondrel/ui/resources"
  mkdir -p "$data/applications" "$data/icons/hicolor/scalable/apps" "$data/mime/packages" \
    "$data/metainfo" || return 1
  cp "$here/icons/gondrel.svg" "$data/icons/hicolor/scalable/apps/gondrel.svg" || return 1
  cp "$here/desktop/gondrel-mime.xml" "$data/mime/packages/gondrel.xml" || return 1
  cp "$here/desktop/gondrel.metainfo.xml" "$data/metainfo/io.gondrel.Gondrel.metainfo.xml" || return 1
  sed "s|@START@|$root/start|" "$here/desktop/gondrel.desktop.in" >"$data/applications/gondrel.desktop" ||
    return 1
  refresh_desktop
  say "installed the desktop entry, icon and file types in $data"
}

remove_desktop() {
  local data="$desktop_data"
  rm -f "$data/applications/gondrel.desktop" "$data/icons/hicolor/scalable/apps/gondrel.svg" \
    "$data/mime/packages/gondrel.xml" "$data/metainfo/io.gondrel.Gondrel.metainfo.xml" || return 1
  refresh_desktop
  say "removed the desktop entry, icon and file types from $data"
}
