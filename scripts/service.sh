#!/usr/bin/env bash
# Makes Neat Crate a service of this user (systemd), so that documents are watched from login on, or ends that.
# Arguments: --install-service or --remove-service, then the application and its options.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
. "$root/scripts/common.sh"

what=$1
shift
unit="${XDG_CONFIG_HOME:-$HOME/.config}/systemd/user/neat-crate.service"
command -v systemctl >/dev/null || fail "systemd is missing here: start Neat Crate by './start.sh' instead."
if [[ $what == --remove-service ]]; then
  systemctl --user disable --now neat-crate.service || say "The service was not running."
  rm -f "$unit"
  systemctl --user daemon-reload
  say "Neat Crate no longer starts by itself. Nothing that it kept was touched."
  exit
fi
mkdir -p "$(dirname "$unit")"
# A word with spaces stands in quotes; a percent sign is doubled, since systemd gives it a meaning.
quoted() { local word=${1//\\/\\\\}; word=${word//\"/\\\"}; printf '"%s" ' "${word//%/%%}"; }
{
  printf '[Unit]\nDescription=Neat Crate keeps recording sessions whole\n\n[Service]\nExecStart='
  quoted "$(command -v dotnet)"
  for word in "$@"; do quoted "$word"; done
  printf '\nRestart=on-failure\nRestartSec=2\n\n[Install]\nWantedBy=default.target\n'
} >"$unit"
systemctl --user daemon-reload
systemctl --user enable --now neat-crate.service
say "Neat Crate runs, and starts by itself from now on when you log in. 'journalctl --user -u neat-crate' shows its address."
