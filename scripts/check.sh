#!/bin/sh
# The quick look of whoever is changing something: vet over everything, and the tests of what is not committed yet, or of the last commit where all is, each
# package's own ones with -short. What it does not look at, make test does.
set -eu
cd "$(dirname "$0")/.."
changed=$( (git diff --name-only HEAD; git ls-files --others --exclude-standard) | sort -u)
[ -n "$changed" ] || changed=$(git diff --name-only HEAD~1)
go=
for f in $changed; do
	case "$f" in
	release/* | third_party/*) continue ;;
	*.go | */testdata/* | */migrations/*) ;;
	api/openapi.yaml | docs/*.md | README.md) f=cmd/huekeep/documents_test.go ;; # which tries what they say
	*) continue ;;
	esac
	d=${f%/*}
	while [ "$d" != . ] && ! ls "$d"/*.go >/dev/null 2>&1; do # of files that lie below a package
		case "$d" in */*) d=${d%/*} ;; *) d=. ;; esac
	done
	case "$d" in . | e2e | landed) ;; *) go="$go ./$d" ;; esac
done
go=$(printf '%s\n' $go | sort -u)
${GO:-go} vet ./...
if [ -n "$go" ]; then
	# shellcheck disable=SC2086 # the list is split on purpose
	${GO:-go} test -short $go
fi
case "$changed" in
*ui/* | *api/openapi.yaml*) make --no-print-directory check-ui ;;
esac
