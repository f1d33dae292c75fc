#!/bin/sh
# Runs every fuzz target for FUZZTIME each (20s if it is not set). An interesting input is not made smaller for long: that takes the time away.
set -eu
cd "$(dirname "$0")/.."
grep -rln '^func Fuzz' --include='*_test.go' . | while read -r file; do
	dir=$(dirname "$file")
	sed -n 's/^func \(Fuzz[A-Za-z0-9]*\).*/\1/p' "$file" | while read -r target; do
		echo "$dir $target"
		go test -run '^$' -fuzz "^$target\$" -fuzzminimizetime 10x -fuzztime "${FUZZTIME:-20s}" "$dir"
	done
done
