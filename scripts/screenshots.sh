#!/usr/bin/env bash
# Takes the pictures in docs/screenshots anew, from the demo.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
. "$root/scripts/common.sh"
need_toolchains
need_debian chromium=chromium chromium-driver=chromedriver
web_pages
restore
dotnet build "$root/NeatCrate.slnx" -c Release --no-restore -v quiet -nologo -clp:ErrorsOnly >&2
mkdir -p "$root/docs/screenshots"
dotnet "$root/tests/NeatCrate.Browser.Tests/bin/Release/net10.0/NeatCrate.Browser.Tests.dll" -explicit only
