#!/usr/bin/env bash
# Installs what is missing, runs the tests and closes with one line that sums them all.
# Arguments: none for all, or any of: web core store standins app browser
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")" && pwd)
. "$root/scripts/common.sh"

declare -A projects=([web]=web [core]=Core [store]=Store [standins]=StandIns [app]=App [browser]=Browser)
parts=("$@")
[[ ${#parts[@]} -gt 0 ]] || parts=(web core store standins app browser)
for part in "${parts[@]}"; do
  [[ -n ${projects[$part]:-} ]] || fail "There is no part '$part'. The parts are: web core store standins app browser."
done

need_toolchains
# The tools that the product's work is checked against.
need_debian libicu72=/usr/lib/*/libicuuc.so.72 libsndfile1=/usr/lib/*/libsndfile.so.1 libsoxr0=/usr/lib/*/libsoxr.so.0 sox=sox ffmpeg=ffprobe sndfile-programs=sndfile-info mediainfo=mediainfo flac=flac libxml2-utils=xmllint unzip=unzip 7zip=7zz libarchive-tools=bsdtar strace=strace python3=python3 alsa-utils=/usr/share/sounds/alsa/Noise.wav sound-theme-freedesktop=/usr/share/sounds/freedesktop/stereo/bell.oga
if [[ " ${parts[*]} " == *" browser "* ]]; then
  need_debian chromium=chromium chromium-driver=chromedriver
  web_pages
fi
if [[ "${parts[*]}" != web ]]; then
  restore
  say "Building the tests."
  dotnet build "$root/NeatCrate.slnx" -c Release --no-restore -v quiet -nologo -clp:ErrorsOnly >&2
fi

passed=0 failed=0 skipped=0 failures=""

# Pure functions of the pages; the runner writes its figures to a file, and one that wrote none has failed.
web_tests() {
  local report
  report=$(mktemp)
  web_packages
  say "== Pages"
  (cd "$root/src/web" && node node_modules/vitest/vitest.mjs run --reporter=dot --reporter=json --outputFile="$report" >&2) || true
  local figures
  figures=$(node -e 'const r = JSON.parse(require("fs").readFileSync(process.argv[1], "utf8")); console.log(r.numPassedTests, Math.max(r.numFailedTests, r.success ? 0 : 1), r.numPendingTests + r.numTodoTests)' "$report" 2>/dev/null) || figures="0 1 0"
  rm -f "$report"
  read -r p f s <<<"$figures"
  passed=$((passed + p)) failed=$((failed + f)) skipped=$((skipped + s))
}

for part in "${parts[@]}"; do
  if [[ $part == web ]]; then
    web_tests
    continue
  fi
  name="NeatCrate.${projects[$part]}.Tests"
  log=$(mktemp)
  say "== $name"
  code=0
  dotnet "$root/tests/$name/bin/Release/net10.0/$name.dll" -noColor 2>&1 | tee "$log" || code=$?
  summary=$(grep -E 'Total: [0-9]+, Errors: ' "$log" | tail -n 1)
  figure() { sed -nE "s/.* $1: ([0-9]+).*/\1/p" <<<"$summary"; }
  if [[ -z $summary ]]; then
    # An assembly that crashed has no summary; it must not pass for one without tests.
    failed=$((failed + 1))
  else
    bad=$(($(figure Failed) + $(figure Errors))) idle=$(figure Skipped)
    passed=$((passed + $(figure Total) - $(figure Failed) - idle - $(figure "Not Run"))) skipped=$((skipped + idle))
    [[ $code -eq 0 || $bad -gt 0 ]] || bad=1
    failed=$((failed + bad))
  fi
  # What failed is said again at the end, where it is looked for: what the tests of the application log is long.
  failures+=$(grep -E ' \[FAIL\]' "$log" || true)$'\n'
  rm -f "$log"
done
grep . <<<"$failures" || true
echo "$passed passed, $failed failed, $skipped skipped"
[[ $failed -eq 0 && $passed -gt 0 ]]
