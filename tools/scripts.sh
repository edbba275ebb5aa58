#!/bin/sh
# Gathers each script of the pages, with the modules it imports, into one file of a folder.
set -eu
into=$(mkdir -p "$1" && cd "$1" && pwd)
cd "$(dirname "$0")/../web"
set --
for name in $(sed -n 's/.*asset "\([a-z]*\)\.js".*/\1/p' views/*.html | sort -u); do
	[ -f "scripts/$name.js" ] && set -- "$@" "scripts/$name.js"
done
npx esbuild "$@" --bundle --format=esm --minify-whitespace --minify-syntax --target=es2022 --outdir="$into" --log-level=warning
