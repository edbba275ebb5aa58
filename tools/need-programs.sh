#!/bin/sh
# The browser tests need Chromium; exports are checked by programs that did not write them, and with fonts of other scripts.
set -eu
missing=""
command -v gcc >/dev/null 2>&1 || missing="$missing gcc libc6-dev" # the race detector
command -v chromium >/dev/null 2>&1 || missing="$missing chromium"
command -v rsvg-convert >/dev/null 2>&1 || missing="$missing librsvg2-bin"
command -v xmllint >/dev/null 2>&1 || missing="$missing libxml2-utils"
command -v qpdf >/dev/null 2>&1 || missing="$missing qpdf"
command -v pdftotext >/dev/null 2>&1 || missing="$missing poppler-utils"
command -v argon2 >/dev/null 2>&1 || missing="$missing argon2"
command -v zipinfo >/dev/null 2>&1 || missing="$missing unzip"
if [ "${1:-}" = soffice ]; then # an office program, for presentations and for text documents
	[ -f /usr/lib/libreoffice/program/libsdlo.so ] || missing="$missing libreoffice-impress-nogui"
	[ -f /usr/lib/libreoffice/program/libswlo.so ] || missing="$missing libreoffice-writer-nogui"
fi
# Other packages put fonts into this folder, too.
[ -f /usr/share/fonts/truetype/noto/NotoSansArabic-Regular.ttf ] || missing="$missing fonts-noto-core"
[ -z "$missing" ] && exit 0
echo "installing$missing"
if [ "$(id -u)" = 0 ]; then as=""; else as="sudo"; fi
$as apt-get update -qq
# shellcheck disable=SC2086
DEBIAN_FRONTEND=noninteractive $as apt-get install -y -qq --no-install-recommends $missing >/dev/null
