#!/bin/sh
# Fails if the generated files are not what the contract gives.
set -eu
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
sed "s|^output:.*|output: $work/api.gen.go|" api/go.yaml >"$work/go.yaml"
go tool oapi-codegen -config "$work/go.yaml" api/openapi.yaml
(cd ui && npx openapi-typescript ../api/openapi.yaml -o "$work/schema.d.ts" >/dev/null)
go run ./cmd/corewasm/types >"$work/engine.gen.ts"
go run ./scripts/notices >"$work/notices-code.txt"
ok=0
cmp -s "$work/notices-code.txt" ui/notices-code.txt || { echo "ui/notices-code.txt is not current; run make generate" >&2; ok=1; }
cmp -s "$work/api.gen.go" api/api.gen.go || { echo "api/api.gen.go is not current; run make generate" >&2; ok=1; }
cmp -s "$work/schema.d.ts" ui/src/lib/api/schema.d.ts || { echo "ui/src/lib/api/schema.d.ts is not current; run make generate" >&2; ok=1; }
cmp -s "$work/engine.gen.ts" ui/src/lib/engine.gen.ts || { echo "ui/src/lib/engine.gen.ts is not current; run make generate" >&2; ok=1; }
exit $ok
