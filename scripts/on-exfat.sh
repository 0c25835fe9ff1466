#!/usr/bin/env bash
# Runs tests of the core with their files on a real exFAT drive: an image, through FUSE. Needs root, /dev/fuse, a loop device, and
# Debian's exfatprogs and exfat-fuse. What exFAT cannot hold (links, modes, pipes, names with ? or :) fails there by nature; that of
# vaults, plans and relinking must not.
# Arguments: filters of the tests; without any, those of the vault and of kept saves.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
. "$root/scripts/common.sh"

command -v mkfs.exfat >/dev/null && command -v mount.exfat-fuse >/dev/null || fail "exfatprogs and exfat-fuse are missing."
work=$(mktemp -d)
drive="$work/drive"
mkdir "$drive"
truncate -s 1G "$work/image"
mkfs.exfat "$work/image" >/dev/null
loop=$(losetup -f --show "$work/image")
trap 'umount "$drive" 2>/dev/null || true; losetup -d "$loop"; rm -rf "$work"' EXIT
mount.exfat-fuse "$loop" "$drive" >/dev/null
[[ $# -gt 0 ]] || set -- -class '*.Vault.*' -class '*.Backups.KeptDocuments*'
TMPDIR="$drive" dotnet "$root/tests/NeatCrate.Core.Tests/bin/Debug/net10.0/NeatCrate.Core.Tests.dll" -noColor "$@"
