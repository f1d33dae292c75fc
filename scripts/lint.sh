#!/bin/sh
# Fails if Go code that is written by hand is not formatted or has long lines, or if staticcheck has something to say of it.
set -eu
cd "$(dirname "$0")/.."
loose=$(find . -name '*.go' -not -path '*/node_modules/*' -exec gofmt -l {} +)
if [ -n "$loose" ]; then
	echo "not formatted (make format):" >&2
	echo "$loose" >&2
	exit 1
fi
long=$(find . -name '*.go' -not -path '*/node_modules/*' -not -path './third_party/*' -not -name '*.gen.go' -not -name '*_test.go' -exec awk -f scripts/long.awk {} +)
if [ -n "$long" ]; then
	echo "$long" >&2
	exit 1
fi
failed=
said=$(go tool staticcheck ./...) || failed=yes
if [ -n "$failed" ] && [ -z "$said" ]; then # it did not even start, which says nothing of the code
	echo "staticcheck could not be run" >&2
	exit 1
fi
said=$(echo "$said" | grep -v '\.gen\.go:' || true)
if [ -n "$said" ]; then
	echo "$said" >&2
	exit 1
fi
