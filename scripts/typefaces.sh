#!/bin/sh
# Copies the typefaces of boards from the npm packages that they come in, after their version was raised there.
set -eu
cd "$(dirname "$0")/.."
for family in hanken-grotesk source-sans-3 spectral libre-baskerville zilla-slab jetbrains-mono big-shoulders-display; do
	for part in latin latin-ext; do
		for weight in 400 700; do
			cp "ui/node_modules/@fontsource/$family/files/$family-$part-$weight-normal.woff2" core/typeface/files/
		done
	done
done
