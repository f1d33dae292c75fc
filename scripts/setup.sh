#!/bin/sh
# Installs the Debian packages that are missing: "mariadb" for running, "test" for testing, "release" for trying a release. Does nothing if all are there.
set -eu

have() { command -v "$1" >/dev/null 2>&1 || [ -x "/usr/sbin/$1" ]; }

packages=
want() { # program, package
	have "$1" || packages="$packages $2"
}

module() { # of Debian's Python, package
	/usr/bin/python3 -c "import $1" 2>/dev/null || packages="$packages $2"
}

scripts=
rules=
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
	want chromium-headless-shell chromium-headless-shell
	want transicc liblcms2-utils
	want tiffinfo libtiff-tools
	want pdffonts poppler-utils
	want gs ghostscript
	want qpdf qpdf
	want ffmpeg ffmpeg
	want melt melt
	[ -f /usr/share/color/icc/compatibleWithAdobeRGB1998.icc ] || packages="$packages icc-profiles-free"
	want cwebp webp
	want curl curl
	want xmllint libxml2-utils
	want soffice libreoffice-impress
	want localc libreoffice-calc
	want lowriter libreoffice-writer
	module openpyxl python3-openpyxl
	module xlsxwriter python3-xlsxwriter
	module docx python3-docx
	module odf python3-odf
	module reportlab python3-reportlab
	[ -e /usr/lib/galera/libgalera_smm.so ] || packages="$packages galera-4"
	want rsync rsync
	want lsof lsof
	want ss iproute2
	galera=/usr/local/lib/huekeep-test/galera
	[ -x $galera/usr/bin/wsrep_sst_rsync ] || scripts=$galera
	promtool=/usr/local/lib/huekeep-test/prometheus/promtool
	[ -x $promtool ] || rules=$promtool
	;;
release)
	want debootstrap debootstrap
	want skopeo skopeo
	want qemu-aarch64-static qemu-user-static
	want jq jq
	want curl curl
	;;
*)
	echo "usage: setup.sh mariadb|test|release" >&2
	exit 2
	;;
esac
[ -n "$packages$scripts$rules" ] || exit 0

if ! have apt-get; then
	echo "Please install what these Debian packages hold:$packages" >&2
	exit 1
fi
root=
if [ "$(id -u)" -ne 0 ]; then
	have sudo || { echo "Please run as root: apt-get install$packages" >&2; exit 1; }
	root=sudo
fi
$root apt-get update -qq
if [ -n "$packages" ]; then
	echo "Installing$packages"
	# shellcheck disable=SC2086 # the list is split on purpose
	$root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $packages >/dev/null
fi
if [ -n "$scripts" ]; then
	# The scripts that carry a node's state to another are part of mariadb-server, which would start a server of its own.
	echo "Taking the scripts of a cluster out of mariadb-server"
	got=$(mktemp -d)
	(cd "$got" && apt-get download -qq mariadb-server >/dev/null 2>&1 && dpkg-deb -x mariadb-server_*.deb all)
	$root mkdir -p "$scripts/usr/bin"
	$root cp "$got"/all/usr/bin/wsrep_sst_* "$scripts/usr/bin/"
	rm -rf "$got"
fi
if [ -n "$rules" ]; then
	# The program that tries rules for alerts is part of prometheus, which would start a server, too.
	echo "Taking the program that tries alerts out of prometheus"
	got=$(mktemp -d)
	(cd "$got" && apt-get download -qq prometheus >/dev/null 2>&1 && dpkg-deb -x prometheus_*.deb all)
	$root mkdir -p "$(dirname "$rules")"
	$root cp "$got/all/usr/bin/promtool" "$rules"
	rm -rf "$got"
fi
