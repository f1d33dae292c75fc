#!/bin/sh
# Rebuilds the shipped press profiles from free measured characterization data.
#
# Needs Debian's argyll (colprof) and icc-profiles-free (the .ti3 measurement files and sRGB.icc).
# -qm      medium quality: 350 KB a profile instead of several megabytes, within 0.3 dE of -qh here
# -bm      medium quality backward table
# -S sRGB -cmt -dpp   perceptual table mapped from sRGB seen on a monitor to this print seen on paper
# -kp 0 .4 1 .9 .6    black starts at 40 % of the way to dark, so that light bright colors stay free of it
# -l       total ink limit in percent
set -eu
data=${1:-/usr/share/color/icc}
out=$(cd "$(dirname "$0")/../profiles" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT

build() { # measurement, name, ink limit, description
	cp "$data/$1.ti3" "$work/$2.ti3"
	colprof -qm -bm -S "$data/sRGB.icc" -cmt -dpp -kp 0 .4 1 .9 .6 "-l$3" -D "$4" \
		-C "Measurements: $1, icc-profiles-free, zlib license" -O "$work/$2.icc" "$work/$2"
	mv "$work/$2.icc" "$out/$2.icc"
}

build FOGRA39L coated 300 "Hue Keep coated" &
build FOGRA29L uncoated 280 "Hue Keep uncoated" &
wait
build TR002 newsprint 240 "Hue Keep newsprint"

# The grays of the coated press get their black in waves; the others don't.
(cd "$(dirname "$0")/smooth" && go run . "$out/coated.icc")
