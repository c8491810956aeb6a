#!/usr/bin/env bash
# Sees to it that the tests have Debian's headless browser, its spreadsheet, its PostgreSQL, and time zones, which most
# machines have.
set -euo pipefail
missing=()
# The browser without its windows is a fifth quicker; the whole one, where a machine has that alone, does as well.
command -v chromium-headless-shell >/dev/null 2>&1 || command -v chromium >/dev/null 2>&1 || missing+=(chromium-headless-shell)
command -v soffice >/dev/null 2>&1 || missing+=(libreoffice-calc)
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || missing+=(postgresql)
[ -e /usr/share/zoneinfo/Etc/UTC ] || missing+=(tzdata)
[ ${#missing[@]} -eq 0 ] && exit 0
echo "Installing Debian's ${missing[*]} (once)…"
as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }
as_root apt-get update -qq
as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
