#!/usr/bin/env bash
# Sees to it that Debian's headless browser is there for the tests.
set -euo pipefail
command -v chromium >/dev/null 2>&1 && exit 0
echo "Installing Debian's chromium (once)…"
as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }
as_root apt-get update -qq
as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium >/dev/null
