#!/bin/sh
# Makes sure that a Chromium is there for the browser tests and pictures: Debian's own package.
set -u
for name in chromium chromium-browser; do
  command -v "$name" >/dev/null 2>&1 && exit 0
done
packages="chromium fonts-dejavu-core"
as=""
if [ "$(id -u)" != 0 ]; then
  command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null && as="sudo -n"
fi
if command -v apt-get >/dev/null 2>&1 && { [ "$(id -u)" = 0 ] || [ -n "$as" ]; }; then
  echo "Installing $packages (Debian) for the browser tests ..."
  $as apt-get update -qq && DEBIAN_FRONTEND=noninteractive $as apt-get install -y -qq --no-install-recommends $packages >/dev/null && exit 0
fi
echo "The browser tests need Chromium. Install it with:  apt-get install --no-install-recommends $packages" >&2
exit 1
