#!/bin/sh
# Takes the pictures in docs/screenshots from a demo started for them.
set -eu
cd "$(dirname "$0")/.."
data=$(mktemp -d)
./bin/plaintracer demo --data "$data" --listen 127.0.0.1:8097 --links 127.0.0.1:8098 >/dev/null &
server=$!
trap 'kill $server; rm -rf "$data"' EXIT
until [ -s "$data/plaintracer.db" ]; do sleep 0.1; done
sleep 0.5
go run ./tools/screenshots http://127.0.0.1:8097
