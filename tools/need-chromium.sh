#!/bin/sh
# The browser tests need Chromium; the exports are checked with librsvg's tool.
set -eu
missing=""
command -v chromium >/dev/null 2>&1 || missing="$missing chromium"
command -v rsvg-convert >/dev/null 2>&1 || missing="$missing librsvg2-bin"
command -v xmllint >/dev/null 2>&1 || missing="$missing libxml2-utils"
[ -z "$missing" ] && exit 0
echo "installing$missing"
if [ "$(id -u)" = 0 ]; then as=""; else as="sudo"; fi
$as apt-get update -qq
# shellcheck disable=SC2086
DEBIAN_FRONTEND=noninteractive $as apt-get install -y -qq --no-install-recommends $missing >/dev/null
