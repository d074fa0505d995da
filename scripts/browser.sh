#!/bin/sh
# Makes sure that a Chromium is there for the browser tests and pictures: Debian's own package, by preference the one
# without windows, which draws a page in half the time.
set -u
for name in chromium-headless-shell chromium chromium-browser; do
  command -v "$name" >/dev/null 2>&1 && exit 0
done
packages="chromium-headless-shell fonts-dejavu-core"
as=""
if [ "$(id -u)" != 0 ]; then
  command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null && as="sudo -n"
fi
fetch() { DEBIAN_FRONTEND=noninteractive $as apt-get install -y -qq --no-install-recommends "$@" >/dev/null; }
if command -v apt-get >/dev/null 2>&1 && { [ "$(id -u)" = 0 ] || [ -n "$as" ]; }; then
  echo "Installing $packages (Debian) for the browser tests ..."
  $as apt-get update -qq && { fetch $packages || fetch chromium fonts-dejavu-core; } && exit 0
fi
echo "The browser tests need Chromium. Install it with:  apt-get install --no-install-recommends $packages" >&2
exit 1
