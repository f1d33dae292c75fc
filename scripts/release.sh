#!/bin/sh
# Builds what one installs from a commit (HEAD, unless another is named) into a folder (dist): the sources are taken out of git, so that from one commit,
# one Go and one Node come the same bytes wherever that is done.
#
#	scripts/release.sh [FOLDER] [COMMIT]
set -eu
cd "$(dirname "$0")/.."
root=$PWD
out=${1:-dist}
mkdir -p "$out"
out=$(cd "$out" && pwd)
commit=$(git rev-parse "${2:-HEAD}")
at=$(git show -s --format=%ct "$commit")
day=$(git show -s --format=%cI "$commit")
# The number stands in the program. What has changed since it was given (CHANGELOG.md begins with what is not released yet) goes by its commit, too.
number=$(git show "$commit:cmd/huekeep/version.go" | sed -n 's/^const lastNumber = "\(.*\)"$/\1/p')
between=$(date -u -d "@$at" +%Y%m%d%H%M%S).$(git rev-parse --short=12 "$commit")
if [ -z "$number" ]; then
	version=0.9.0~$between # from before there was one
elif git show "$commit:CHANGELOG.md" | grep -q '^## Not released yet'; then
	version=$number+$between
else
	version=$number
fi
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
git archive "$commit" | tar -x -C "$work"
cd "$work"
echo "Building $version" >&2
make --no-print-directory ui/built/app/index.html >&2
short=$(printf %.12s "$commit")
for arch in amd64 arm64; do
	CGO_ENABLED=0 GOOS=linux GOARCH=$arch GOAMD64=v1 GOARM64=v8.0 GOFLAGS= go build -trimpath -buildvcs=false \
		-ldflags "-s -w -buildid= -X main.release=$version -X main.commit=$short -X main.built=$day" -o "built/$arch/huekeep" ./cmd/huekeep
done
rm -f "$out"/huekeep_* "$out"/huekeep-* "$out"/SHA256SUMS
# What packs is of this working copy, which may be newer than what it packs.
(cd "$root" && go build -o "$work/built/notices" ./scripts/notices)
built/notices -list >built/components.json
(cd "$root/release" && SOURCE_DATE_EPOCH=$at go run . -version "$version" -commit "$commit" -at "$at" -out "$out" -docs "$work" "amd64=$work/built/amd64" "arm64=$work/built/arm64" <"$work/built/components.json")
cd "$out" && cat SHA256SUMS
