#!/bin/sh
# Installs the Debian packages that are missing: "mariadb" for running, "test" for testing. Does nothing if all are there.
set -eu

have() { command -v "$1" >/dev/null 2>&1 || [ -x "/usr/sbin/$1" ]; }

packages=
want() { # program, package
	have "$1" || packages="$packages $2"
}

case "$1" in
mariadb)
	if [ -n "${HUEKEEP_DATABASE:-}" ]; then exit 0; fi
	want mariadbd mariadb-server-core
	want mariadb-install-db mariadb-server-core
	want my_print_defaults mariadb-client-core # mariadb-install-db calls it, but its package does not ask for it
	;;
test)
	want mariadbd mariadb-server-core
	want mariadb-install-db mariadb-server-core
	want my_print_defaults mariadb-client-core # mariadb-install-db calls it, but its package does not ask for it
	want chromium chromium
	want transicc liblcms2-utils
	want tiffinfo libtiff-tools
	want pdffonts poppler-utils
	want gs ghostscript
	want qpdf qpdf
	want ffmpeg ffmpeg
	want melt melt
	[ -f /usr/share/color/icc/compatibleWithAdobeRGB1998.icc ] || packages="$packages icc-profiles-free"
	want cwebp webp
	want xmllint libxml2-utils
	want soffice libreoffice-impress
	want localc libreoffice-calc
	want lowriter libreoffice-writer
	;;
*)
	echo "usage: setup.sh mariadb|test" >&2
	exit 2
	;;
esac
[ -n "$packages" ] || exit 0

if ! have apt-get; then
	echo "Please install what these Debian packages hold:$packages" >&2
	exit 1
fi
root=
if [ "$(id -u)" -ne 0 ]; then
	have sudo || { echo "Please run as root: apt-get install$packages" >&2; exit 1; }
	root=sudo
fi
echo "Installing$packages"
$root apt-get update -qq
# shellcheck disable=SC2086 # the list is split on purpose
$root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $packages >/dev/null
