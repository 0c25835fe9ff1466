#!/usr/bin/env bash
# Installs what is missing, builds, makes the demo at the first start, and serves Neat Crate on this machine.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")" && pwd)
. "$root/scripts/common.sh"

usage="Usage: ./start.sh [--no-demo] [--data DIR] [--port N] [--history-days N] [--fresh]
  --no-demo   start without the demo sessions
  --data DIR  keep the database and the demo in DIR (default: data)
  --port N    serve on port N (default: 5180; 0 takes any free one)
  --history-days N  keep what an undo needs for N days (default: 365)
  --install-service  from now on start by itself when you log in, so that every save is kept; --remove-service ends that
  --fresh     forget the database and make the demo new; sessions elsewhere are not touched"

data="$root/data" fresh=0 service="" options=()
while [[ $# -gt 0 ]]; do
  case $1 in
    --no-demo) options+=(--no-demo) ;;
    --data) [[ $# -ge 2 ]] || fail "$usage"; data=$2; shift ;;
    --port) [[ $# -ge 2 ]] || fail "$usage"; options+=(--port "$2"); shift ;;
    --history-days) [[ $# -ge 2 ]] || fail "$usage"; options+=(--history-days "$2"); shift ;;
    --fresh) fresh=1 ;;
    --install-service | --remove-service) service=$1 ;;
    -h | --help) say "$usage"; exit 0 ;;
    *) fail "There is no option '$1'.
$usage" ;;
  esac
  shift
done

need_toolchains
need_debian libicu72=/usr/lib/*/libicuuc.so.72 libsndfile1=/usr/lib/*/libsndfile.so.1 libsoxr0=/usr/lib/*/libsoxr.so.0
app="$root/src/NeatCrate.App/bin/Release/net10.0/NeatCrate.App.dll"
web_pages &
pages=$!
if stale app "$root"/*.props "$root/src" || [[ ! -f $app ]]; then
  restore
  say "Building Neat Crate."
  dotnet build "$root/src/NeatCrate.App" -c Release --no-restore -v quiet -nologo -clp:ErrorsOnly >&2
  touch "$stamps/app"
fi
wait $pages

if [[ $fresh -eq 1 && -e $data ]]; then
  # Only what Neat Crate itself keeps there: a folder that is not its own is left alone.
  [[ -f $data/neat-crate.db || -d $data/demo || -z $(ls -A "$data") ]] || fail "'$data' does not look like Neat Crate's data folder; nothing was removed."
  rm -rf "$data"/neat-crate.db* "$data/demo" "$data/in-use" "$data/logs" "$data"/vault-*
fi
[[ -z $service ]] || { "$root/scripts/service.sh" "$service" "$app" --data "$(realpath -m "$data")" --web "$root/src/web/dist" "${options[@]}"; exit; }
exec dotnet "$app" --data "$data" --web "$root/src/web/dist" "${options[@]}"
