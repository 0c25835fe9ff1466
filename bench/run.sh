#!/usr/bin/env bash
# Runs all benchmarks and prints their figures as a Markdown table. Arguments: a folder to work in, on the drive to measure,
# and names of benchmarks (scan, search, relink, relink-again, purge, vault, copy-in, peaks, convert, print, bundle, bundle-memory, loading-bay, large-session, at-rest,
# memory) where not all are wanted.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
. "$root/scripts/common.sh"
need_toolchains
need_debian libsndfile1=/usr/lib/*/libsndfile.so.1 libsoxr0=/usr/lib/*/libsoxr.so.0 sox=sox restic=restic zip=zip 7zip=7zz
restore
dotnet build "$root/src/NeatCrate.App" -c Release --no-restore -v quiet -nologo -clp:ErrorsOnly >&2
dotnet build "$root/bench/NeatCrate.Bench" -c Release --no-restore -v quiet -nologo -clp:ErrorsOnly >&2
exec dotnet "$root/bench/NeatCrate.Bench/bin/Release/net10.0/NeatCrate.Bench.dll" "$@"
