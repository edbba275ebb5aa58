#!/bin/sh
# Fails when the committed style sheet or scripts are not what their sources build, or the scripts' types do not agree.
set -eu
if ! command -v npm >/dev/null 2>&1; then
	if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
		apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends npm >/dev/null
	else
		echo "the style sheet and the scripts were not checked: that needs npm" >&2
		exit 0
	fi
fi
cd "$(dirname "$0")/../web"
[ -d node_modules/@tailwindcss/cli ] && [ -d node_modules/typescript ] && [ -d node_modules/esbuild ] || npm install --silent
npx tsc -p .
built=$(mktemp -d)
trap 'rm -rf "$built"' EXIT
../tools/scripts.sh "$built/js"
diff -rq "$built/js" static/js >/dev/null || { echo "web/static/js is not what web/scripts builds: run make css" >&2; exit 1; }
npx @tailwindcss/cli -i styles/app.css -o "$built/app.css" --minify 2>/dev/null
cmp -s "$built/app.css" static/app.css || { echo "web/static/app.css is not what web/styles builds: run make css" >&2; exit 1; }
