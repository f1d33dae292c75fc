#!/bin/sh
# Takes the pictures of docs/screenshots from a fresh demo in a folder of its own.
set -eu
cd "$(dirname "$0")/.."
data=$(mktemp -d)
HUEKEEP_DATA=$data HUEKEEP_ADDRESS=127.0.0.1:7199 ./huekeep demo >"$data/log" 2>&1 &
pid=$!
trap 'kill -INT $pid; wait $pid || true; rm -rf "$data"' EXIT
for _ in $(seq 100); do
	grep -q "Hue Keep is at" "$data/log" && break
	sleep 0.2
done
go run ./e2e/shots http://127.0.0.1:7199 docs/screenshots

# The pictures of the guide come out of the journey that tests it.
go test ./e2e -run "^TestTheGuide$" -count 1 -args -guide
