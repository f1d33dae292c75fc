#!/bin/bash
# Tries what scripts/release.sh builds as one who installs it: the same bytes from another folder; then in a Debian of its own (debootstrap, systemd in
# namespaces of its own): the version before, a first account and a color, the upgrade, the doctor with a restore, a killed service, remove, purge; and
# the image and the archive. Needs root and a mirror of Debian; takes some ten minutes.
#
#	scripts/test-release.sh [COMMIT BEFORE]
#
# RELEASES names a folder with "now" and "before" that were built already.
# The version before is the commit before the schema last changed, unless another one is named.
set -euo pipefail
cd "$(dirname "$0")/.."
before=${1:-$(git log -1 --format=%H -- store/migrations)^}
mirror=${MIRROR:-http://deb.debian.org/debian}
port=7180
for p in debootstrap skopeo qemu-aarch64-static unshare nsenter curl jq; do
	command -v "$p" >/dev/null || { echo "$p is missing: scripts/setup.sh release" >&2; exit 1; }
done
[ "$(id -u)" -eq 0 ] || { echo "run it as root: a Debian of its own is booted" >&2; exit 1; }
if curl -s "127.0.0.1:$port/health" >/dev/null; then
	echo "something answers at port $port already" >&2
	exit 1
fi
work=$(mktemp -d)
root=$work/root
init=
finish() {
	[ -z "$init" ] || kill -9 "$init" 2>/dev/null || true
	rm -rf --one-file-system "$work"
}
trap finish EXIT
step() { echo "== $*"; }
fail() { echo "FAILED: $*" >&2; inside journalctl -u huekeep --no-pager -n 40 >&2 || true; exit 1; }
inside() { nsenter -t "$init" -m -p -u -i -C env -i PATH=/usr/sbin:/usr/bin:/sbin:/bin DEBIAN_FRONTEND=noninteractive LC_ALL=C.UTF-8 "$@"; }
answers() { # within a minute
	for _ in $(seq 120); do
		curl -sf "127.0.0.1:$port/ready" >/dev/null && return
		sleep 0.5
	done
	fail "the service does not answer"
}

if [ -n "${RELEASES:-}" ]; then # built by a run before, in its folders "now" and "before"
	ln -s "$RELEASES/now" "$RELEASES/before" "$work"
else
	(cd release && go vet . && go test .)
	step "the same bytes from two folders"
	scripts/release.sh "$work/now" 2>"$work/log" >/dev/null || { cat "$work/log" >&2; exit 1; }
	git clone -q . "$work/clone"
	(cd "$work/clone" && scripts/release.sh "$work/again") 2>"$work/log" >/dev/null || { cat "$work/log" >&2; exit 1; }
	cmp "$work/now/SHA256SUMS" "$work/again/SHA256SUMS"
	(cd "$work/now" && sha256sum --quiet -c SHA256SUMS)
	cat "$work/now/SHA256SUMS"
	rm -rf "$work/clone" "$work/again"
	step "the version before, $before"
	scripts/release.sh "$work/before" "$before" 2>"$work/log" >/dev/null || { cat "$work/log" >&2; exit 1; }
fi

step "the image"
mkdir "$work/image" "$work/oci"
tar -xf "$work"/now/*.oci.tar -C "$work/oci"
for arch in amd64 arm64; do
	skopeo --override-arch $arch inspect --config "oci:$work/oci" | jq -e ".architecture == \"$arch\" and .config.User == \"65532:65532\"" >/dev/null
done
skopeo --override-arch amd64 copy -q "oci:$work/oci" "dir:$work/layers"
tar -xzf "$work/layers/$(jq -r '.layers[0].digest' "$work/layers/manifest.json" | cut -d: -f2)" -C "$work/image"
chroot --userspec=65532:65532 "$work/image" /usr/bin/huekeep version
chroot --userspec=65532:65532 "$work/image" /usr/bin/huekeep convert '#E1572C' >/dev/null
step "the archive"
mkdir "$work/archive"
tar -xzf "$work"/now/*-linux-amd64.tar.gz -C "$work/archive"
"$work/archive/huekeep/usr/bin/huekeep" version
mkdir "$work/arm"
tar -xzf "$work"/now/*-linux-arm64.tar.gz -C "$work/arm"
[ "$(qemu-aarch64-static "$work/arm/huekeep/usr/bin/huekeep" convert '#E1572C' --json)" = "$("$work/archive/huekeep/usr/bin/huekeep" convert '#E1572C' --json)" ] || { echo "arm64 computes otherwise" >&2; exit 1; }
jq -e '.bomFormat == "CycloneDX" and (.components | length) > 50' "$work"/now/*.cdx.json >/dev/null

step "a Debian of its own"
debootstrap --variant=minbase --include=systemd,dbus,ca-certificates bookworm "$root" "$mirror" >"$work/log" 2>&1 || { tail "$work/log" >&2; exit 1; }
cp /etc/resolv.conf "$root/etc/"
echo '127.0.0.1 localhost' >"$root/etc/hosts"
cat >"$work/boot" <<'B'
set -e
mount --make-rprivate /
mount --bind "$1" "$1"
mount -t proc proc "$1/proc"
mount -t sysfs sysfs "$1/sys"
mount -t cgroup2 cgroup2 "$1/sys/fs/cgroup"
mount -t tmpfs tmpfs "$1/run"
mount -t tmpfs -o mode=755 tmpfs "$1/dev"
for d in null zero random urandom full tty; do touch "$1/dev/$d"; mount --bind "/dev/$d" "$1/dev/$d"; done
mkdir -p "$1/dev/shm" "$1/dev/pts" "$1/dev/mqueue" "$1/dev/hugepages"
mount -t tmpfs tmpfs "$1/dev/shm"
mount -t devpts devpts "$1/dev/pts"
ln -sf pts/ptmx "$1/dev/ptmx"
ln -sf /proc/self/fd "$1/dev/fd"
cd "$1" # the root itself, so that the service can be given one of its own
mkdir -p before
pivot_root . before
umount -l /before
exec env -i container=unshare PATH=/usr/sbin:/usr/bin:/sbin:/bin /lib/systemd/systemd --system --unit=multi-user.target
B
setsid unshare -m -p -f -u -i -C bash "$work/boot" "$root" >"$work/boot.log" 2>&1 &
for _ in $(seq 60); do
	init=$(pgrep -f "^/lib/systemd/systemd --system --unit=multi-user.target" -n || true)
	[ -n "$init" ] && [ "$(inside systemctl is-system-running 2>/dev/null || true)" = running ] && break
	sleep 1
done
[ "$(inside systemctl is-system-running)" = running ] || fail "systemd does not run"
inside apt-get update -qq

step "installing, to the first admitted color"
mkdir "$root/packages"
cp "$work"/before/*_amd64.deb "$root/packages/before.deb"
cp "$work"/now/*_amd64.deb "$root/packages/now.deb"
began=$(date +%s%N)
inside apt-get install -y -qq /packages/before.deb >"$work/log" 2>&1 || { tail "$work/log" >&2; exit 1; }
grep -q "The page makes the first account" "$work/log" || fail "nothing says how one begins"
answers
installed=$(date +%s%N)
code=$(inside journalctl -u huekeep --no-pager | grep -o 'code=[A-Z0-9-]*' | tail -1 | cut -d= -f2)
jar=$work/jar
ask() { # method, path, body
	curl -sf -b "$jar" -c "$jar" -X "$1" -H "X-CSRF-Token: ${csrf:-}" -H 'Content-Type: application/json' "127.0.0.1:$port/api$2" ${3:+-d "$3"} || fail "$1 $2"
}
csrf=$(ask POST /first "{\"code\":\"$code\",\"name\":\"Ana\",\"email\":\"ana@quay.example\",\"password\":\"a lamp of nine hours\",\"house\":\"Quay Museum\"}" | jq -r .csrf)
ask POST /houses/1/tray '{"text":"Lamp #F2B632"}' >/dev/null
ask POST /houses/1/tray/admit "{\"items\":[$(ask GET /houses/1/tray | jq '.[0].id')]}" >/dev/null
colors() { ask GET /houses/1/colors | jq -r '.colors[] | "\(.name) \(.hex)"'; }
[ "$(colors)" = "Lamp #F2B632" ] || fail "the color is not there: $(colors)"
echo "installed in $(((installed - began) / 1000000)) ms with MariaDB, a color $((($(date +%s%N) - installed) / 1000000)) ms later"
shown=$(inside systemctl show huekeep)
for what in NoNewPrivileges=yes ProtectSystem=strict ProtectHome=yes PrivateTmp=yes User=huekeep; do
	grep -qx "$what" <<<"$shown" || fail "the service is not $what"
done
[ "$(inside stat -c '%U:%G %a' /etc/huekeep/huekeep.env /var/lib/huekeep | paste -sd' ')" = 'root:huekeep 640 huekeep:huekeep 700' ] || fail "others can read what they should not"

step "upgrading with the data"
echo '# ours' >>"$root/etc/huekeep/huekeep.env"
inside apt-get install -y -qq /packages/now.deb >"$work/log" 2>&1 || { tail "$work/log" >&2; exit 1; }
answers
[ "$(colors)" = "Lamp #F2B632" ] || fail "the color went with the upgrade"
grep -qx '# ours' "$root/etc/huekeep/huekeep.env" || fail "the settings went with the upgrade"
inside huekeep version
for _ in $(seq 60); do
	ls "$root"/var/lib/huekeep/dumps/huekeep-*.tar.gz >/dev/null 2>&1 && break
	sleep 1
done
inside huekeep-doctor --restore | tee "$work/doctor"
grep -q 'came back wholly' "$work/doctor" || fail "the nightly dump was not restored"
inside huekeep-do account ana@quay.example --runs
ask GET /server | jq -e '.houses[0].name == "Quay Museum" and .dumps.nights[0].rows > 0' >/dev/null

curl -sf -b "$jar" -H "X-CSRF-Token: $csrf" -F file=@core/manual/testdata/cards.pdf "127.0.0.1:$port/api/houses/1/files" | grep -q '#' || fail "a manual is not read by the service as it is shut in"

step "a killed service"
inside systemctl kill -s KILL huekeep
sleep 1
answers
[ "$(colors)" = "Lamp #F2B632" ] || fail "the color went with the process"

step "removing, and installing again"
inside apt-get remove -y -qq huekeep >"$work/log" 2>&1
curl -s "127.0.0.1:$port/health" && fail "it still answers"
[ -f "$root/etc/huekeep/huekeep.env" ] || fail "the settings went with the program"
inside apt-get install -y -qq /packages/now.deb >"$work/log" 2>&1 || { tail "$work/log" >&2; exit 1; }
answers
[ "$(colors)" = "Lamp #F2B632" ] || fail "the color went with the program"

step "purging"
inside apt-get purge -y -qq huekeep >"$work/log" 2>&1
grep -q 'still in /var/lib/huekeep' "$work/log" || fail "nothing says that the library is left"
[ ! -e "$root/etc/huekeep" ] && [ ! -e "$root/usr/bin/huekeep" ] || fail "something of it is left"
[ -d "$root/var/lib/huekeep/mariadb" ] || fail "the library went unasked"

step "as new, on a machine without names"
rm -rf "$root/var/lib/huekeep" "$root/etc/hosts"
inside apt-get install -y -qq /packages/now.deb >"$work/log" 2>&1 || { tail "$work/log" >&2; exit 1; }
answers
inside huekeep-doctor
echo "all well"
